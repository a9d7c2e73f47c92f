"""The scanned page of a file whose text is read next."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To files whose scanned pages wait one by one."""
    op.add_column("to_read", sa.Column("page", sa.Integer, nullable=False, server_default="0"))


def downgrade() -> None:
    """Without them."""
    op.execute(sa.text("DELETE FROM to_read WHERE page > 0"))
    with op.batch_alter_table("to_read") as table:
        table.drop_column("page")
