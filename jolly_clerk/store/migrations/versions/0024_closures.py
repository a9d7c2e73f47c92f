"""Days on which the office was shut, as leads declared them."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To closures that are declared."""
    op.create_table(
        "closures",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("day", sa.Date, nullable=False, index=True),
        sa.Column("told", sa.Text, nullable=False),
        sa.Column("declared_by", sa.String(40), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("declared_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True, index=True),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("closures")
