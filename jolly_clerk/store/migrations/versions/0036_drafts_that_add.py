"""Drafts of what is added to a case without being asked."""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts that add."""
    op.add_column("drafts", sa.Column("adds", sa.String(80), nullable=False, server_default=""))


def downgrade() -> None:
    """Without them."""
    op.drop_column("drafts", "adds")
