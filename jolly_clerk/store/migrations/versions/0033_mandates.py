"""Mandates: who acts for whoever applies."""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To a table of mandates."""
    op.create_table(
        "mandates",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("owner_id", sa.String(40), nullable=False, index=True),
        sa.Column("mail", sa.String(200), nullable=False, index=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("rights", sa.JSON(), nullable=False),
        sa.Column("kinds", sa.JSON(), nullable=False),
        sa.Column("cases", sa.JSON(), nullable=False),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("accepted_at", sa.DateTime(), nullable=True),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
        sa.Column("ended_day", sa.Date(), nullable=True),
        sa.Column("told_over", sa.Boolean(), nullable=False),
    )


def downgrade() -> None:
    """Without it."""
    op.drop_table("mandates")
