"""The day after which a period of the office runs now, for lists; filled when a case is next changed."""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To lists that count the days left as the clock does."""
    op.add_column("cases", sa.Column("counted_after", sa.Date(), nullable=True))


def downgrade() -> None:
    """Back to the days until the limit."""
    op.drop_column("cases", "counted_after")
