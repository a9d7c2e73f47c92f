"""Firms with several people: a firm owns filings, its members act as the firm."""

import sqlalchemy as sa
from alembic import op

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To firms."""
    op.add_column("people", sa.Column("is_firm", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("sign_ins", sa.Column("acts_as", sa.String(40), nullable=False, server_default=""))
    op.create_table(
        "firm_members",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("firm_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("mail", sa.String(200), nullable=False, index=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("keeper", sa.Boolean(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("accepted_at", sa.DateTime(), nullable=True),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("firm_members")
    op.drop_column("sign_ins", "acts_as")
    op.drop_column("people", "is_firm")
