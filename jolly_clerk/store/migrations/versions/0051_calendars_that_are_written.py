"""Calendars that are written in the browser."""

import sqlalchemy as sa
from alembic import op

revision = "0051"
down_revision = "0050"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose calendar is written in the browser."""
    op.create_table(
        "calendar_texts",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.Column("kept_by", sa.String(40), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("asked_at", sa.DateTime(), nullable=True),
        sa.Column("asked_by", sa.String(40), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("confirmed_at", sa.DateTime(), nullable=True),
        sa.Column("confirmed_by", sa.String(40), nullable=False),
    )
    op.create_index("ix_calendar_texts_confirmed_at", "calendar_texts", ["confirmed_at"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("calendar_texts")
