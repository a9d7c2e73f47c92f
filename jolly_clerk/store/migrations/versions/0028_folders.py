"""The folder of its owner's own in which a draft lies."""

import sqlalchemy as sa
from alembic import op

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts in folders."""
    op.add_column("drafts", sa.Column("folder", sa.String(60), nullable=False, server_default=""))


def downgrade() -> None:
    """Without them."""
    op.drop_column("drafts", "folder")
