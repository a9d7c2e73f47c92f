"""Permits that were transferred to somebody else, who accepts and holds them."""

import sqlalchemy as sa
from alembic import op

revision = "0052"
down_revision = "0051"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose permits are held by those who accepted them."""
    op.create_table(
        "held_permits",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("step", sa.String(20), nullable=False),
        sa.Column("offered_to", sa.String(200), nullable=False),
        sa.Column("holder_id", sa.String(40), sa.ForeignKey("people.id"), nullable=True),
    )
    op.create_index("ix_held_permits_offered_to", "held_permits", ["offered_to"])
    op.create_index("ix_held_permits_holder_id", "held_permits", ["holder_id"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("held_permits")
