"""Editions that are being written in the browser."""

import sqlalchemy as sa
from alembic import op

revision = "0045"
down_revision = "0044"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose rules are written in the browser."""
    op.create_table(
        "edition_drafts",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("kind", sa.String(2), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("based_on", sa.String(64), nullable=False, server_default=""),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("kept_at", sa.DateTime(), nullable=False),
        sa.Column("kept_by", sa.String(40), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("asked_at", sa.DateTime(), nullable=True),
        sa.Column("asked_by", sa.String(40), nullable=False, server_default=""),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("edition_drafts")
