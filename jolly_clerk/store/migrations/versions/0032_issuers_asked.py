"""Issuers who are asked to send one document straight to the office."""

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To a table of what issuers are asked."""
    op.create_table(
        "issuers_asked",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("draft_id", sa.String(40), nullable=False, index=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=True, index=True),
        sa.Column("by_id", sa.String(40), nullable=False, index=True),
        sa.Column("slot", sa.String(60), nullable=False),
        sa.Column("mail", sa.String(200), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("wanted_by", sa.Date(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("link_hash", sa.String(64), nullable=False, index=True),
        sa.Column("link_until", sa.DateTime(), nullable=True),
        sa.Column("opened", sa.Integer(), nullable=False),
        sa.Column("opened_at", sa.DateTime(), nullable=True),
        sa.Column("reminded", sa.Integer(), nullable=False),
        sa.Column("reminded_at", sa.DateTime(), nullable=True),
        sa.Column("came_at", sa.DateTime(), nullable=True),
        sa.Column("came_name", sa.String(120), nullable=False),
        sa.Column("came_firm", sa.String(120), nullable=False),
        sa.Column("shown", sa.Boolean(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
    )


def downgrade() -> None:
    """Without it."""
    op.drop_table("issuers_asked")
