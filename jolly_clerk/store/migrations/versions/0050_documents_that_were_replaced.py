"""Documents that were replaced: their codes are known, and count no more."""

import sqlalchemy as sa
from alembic import op

revision = "0050"
down_revision = "0049"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office that replaces what was lost."""
    op.create_table(
        "replaced_codes",
        sa.Column("code", sa.String(40), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
    )
    op.create_index("ix_replaced_codes_case_id", "replaced_codes", ["case_id"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("replaced_codes")
