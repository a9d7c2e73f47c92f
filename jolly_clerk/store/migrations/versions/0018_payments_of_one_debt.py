"""A payment at the terminal tells the debt that it is for, where it is for one alone."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To payments that name a debt."""
    op.add_column("terminal_payments", sa.Column("debt", sa.String(40), nullable=False, server_default=""))


def downgrade() -> None:
    """Back to payments of all that is open."""
    op.drop_column("terminal_payments", "debt")
