"""What changed, for open pages: which case or draft, at which revision; never what in it."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To changes that are pushed."""
    op.create_table(
        "events",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("at", sa.DateTime(), nullable=False, index=True),
        sa.Column("what", sa.String(10), nullable=False),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("owner_id", sa.String(40), nullable=False),
        sa.Column("kind", sa.String(2), nullable=False, server_default=""),
        sa.Column("handed", sa.Boolean(), nullable=False, server_default="0"),
        sqlite_autoincrement=True,
    )


def downgrade() -> None:
    """Back to pages that ask."""
    op.drop_table("events")
