"""Others who were invited to work in a filing."""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To invitations."""
    op.create_table(
        "invitations",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("draft_id", sa.String(40), nullable=False),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=True),
        sa.Column("by_id", sa.String(40), nullable=False),
        sa.Column("mail", sa.String(200), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("rights", sa.JSON(), nullable=False),
        sa.Column("parts", sa.JSON(), nullable=False),
        sa.Column("used", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("ended_at", sa.DateTime(), nullable=True),
    )
    op.add_column("drafts", sa.Column("writers", sa.JSON(), nullable=False, server_default="{}"))
    for column in ("draft_id", "case_id", "mail"):
        op.create_index(f"ix_invitations_{column}", "invitations", [column])


def downgrade() -> None:
    """Without them."""
    op.drop_column("drafts", "writers")
    op.drop_table("invitations")
