"""The outbox: why something can never go."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an outbox that sets aside what cannot go."""
    with op.batch_alter_table("outbox") as outbox:
        outbox.add_column(sa.Column("trouble", sa.String(200), nullable=False, server_default=""))


def downgrade() -> None:
    """Back to profiles."""
    with op.batch_alter_table("outbox") as outbox:
        outbox.drop_column("trouble")
