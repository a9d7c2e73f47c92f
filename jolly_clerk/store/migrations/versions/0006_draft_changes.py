"""What changed in a draft, so that two windows of one person can be merged."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts that remember their changes."""
    op.create_table(
        "draft_changes",
        sa.Column("draft_id", sa.String(40), primary_key=True),
        sa.Column("revision", sa.Integer(), primary_key=True),
        sa.Column("who_id", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
    )


def downgrade() -> None:
    """Back to drafts that do not."""
    op.drop_table("draft_changes")
