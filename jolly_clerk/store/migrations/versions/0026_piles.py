"""Piles of drafts: what came and is not placed yet."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts with piles."""
    op.create_table(
        "pile_items",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("draft_id", sa.String(40), nullable=False, index=True),
        sa.Column("put_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("no", sa.Integer, nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("within", sa.String(200), nullable=False),
        sa.Column("told", sa.String(300), nullable=False),
        sa.Column("first", sa.Integer, nullable=False),
        sa.Column("last", sa.Integer, nullable=False),
        sa.Column("fixed", sa.Boolean, nullable=False),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("pile_items")
