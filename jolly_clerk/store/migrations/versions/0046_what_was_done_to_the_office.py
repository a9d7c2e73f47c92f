"""What was done to the office itself: settings, registers, copies."""

import sqlalchemy as sa
from alembic import op

revision = "0046"
down_revision = "0045"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office that is run from the browser."""
    op.create_table(
        "office_changes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("who", sa.String(40), nullable=False),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("said", sa.Text(), nullable=False),
    )
    op.create_index("ix_office_changes_at", "office_changes", ["at"])


def downgrade() -> None:
    """Without it."""
    op.drop_table("office_changes")
