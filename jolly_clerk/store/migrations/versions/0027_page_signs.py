"""Signs of pages, by which pages that are alike are found in other cases."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To pages with signs."""
    op.create_table(
        "page_signs",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("page", sa.Integer, primary_key=True),
        sa.Column("sign", sa.String(12), primary_key=True, index=True),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("page_signs")
