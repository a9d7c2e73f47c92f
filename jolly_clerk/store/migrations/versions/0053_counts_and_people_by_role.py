"""Cases of an officer are counted along an index, and people found by their role, in an office of any size."""

from alembic import op

revision = "0053"
down_revision = "0052"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """With the two indexes."""
    op.create_index("cases_of_officer", "cases", ["tray", "officer_id", "kind", "state", "waits", "at_once"])
    op.create_index("ix_people_role", "people", ["role"])


def downgrade() -> None:
    """Without them."""
    op.drop_index("ix_people_role", "people")
    op.drop_index("cases_of_officer", "cases")
