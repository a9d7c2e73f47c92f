"""Where a draft went that was filed or sent: its old address leads to the case."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts that are found again as their cases."""
    op.create_table(
        "ended_drafts",
        sa.Column("draft_id", sa.String(40), primary_key=True),
        sa.Column("owner_id", sa.String(40), nullable=False),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
    )


def downgrade() -> None:
    """Back to drafts that are only gone."""
    op.drop_table("ended_drafts")
