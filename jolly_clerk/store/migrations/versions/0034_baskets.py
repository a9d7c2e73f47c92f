"""Several cases that are paid at once."""

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To a table of baskets."""
    op.create_table(
        "baskets",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("by_id", sa.String(40), nullable=False, index=True),
        sa.Column("parts", sa.JSON(), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("asked_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    """Without it."""
    op.drop_table("baskets")
