"""Counts of the in-tray along an index."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To counts that read no rows."""
    for who in ("officer", "reviewer"):
        op.drop_index(f"cases_by_{who}", "cases")
        own = ["tray", f"{who}_id", "waits", "sort_at", "reference", "kind", "state", "limit_day", "holder"]
        op.create_index(f"cases_by_{who}", "cases", own)
    op.create_index("cases_counted", "cases", ["tray", "kind", "state", "waits"])
    op.create_index("cases_soon", "cases", ["tray", "waits", "limit_day", "kind", "state", "officer_id", "holder"])


def downgrade() -> None:
    """Back to counts that group as they read."""
    op.drop_index("cases_soon", "cases")
    op.drop_index("cases_counted", "cases")
    for who in ("officer", "reviewer"):
        op.drop_index(f"cases_by_{who}", "cases")
        op.create_index(f"cases_by_{who}", "cases", ["tray", f"{who}_id", "waits", "sort_at", "reference"])
