"""Files that are being read: a queue that survives a stop."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To a queue of files to read."""
    op.create_table(
        "to_read",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("person_id", sa.String(40), nullable=False, index=True),
        sa.Column("put_at", sa.DateTime(), nullable=False),
        sa.Column("wanted", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("taken_by", sa.String(40), nullable=False, server_default=""),
        sa.Column("taken_until", sa.DateTime(), nullable=True),
        sa.Column("tries", sa.Integer(), nullable=False, server_default="0"),
    )


def downgrade() -> None:
    """Back to files that are read while one waits."""
    op.drop_table("to_read")
