"""Files taken out of a draft, and drafts thrown away, can be brought back for a week."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts that remember what was removed from them, and that are marked before they go."""
    with op.batch_alter_table("drafts") as drafts:
        drafts.add_column(sa.Column("removed", sa.JSON(), nullable=False, server_default="[]"))
        drafts.add_column(sa.Column("thrown_away_at", sa.DateTime(), nullable=True))


def downgrade() -> None:
    """Back to drafts of which what is removed is gone."""
    with op.batch_alter_table("drafts") as drafts:
        drafts.drop_column("thrown_away_at")
        drafts.drop_column("removed")
