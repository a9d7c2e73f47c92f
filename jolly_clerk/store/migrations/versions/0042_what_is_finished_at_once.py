"""What can be finished at once, and who did the last thing in a case."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0042"
down_revision = "0041"
branch_labels = None
depends_on = None

#: the indexes of the lists, each with the new column behind the others
INDEXES = {
    "cases_in_tray": ("tray", "waits", "sort_at", "reference", "kind", "state", "officer_id", "holder", "limit_day", "their_limit_day"),
    "cases_counted": ("tray", "kind", "state", "waits"),
    "cases_soon": ("tray", "waits", "limit_day", "kind", "state", "officer_id", "holder"),
    "cases_by_officer": ("tray", "officer_id", "waits", "sort_at", "reference", "kind", "state", "limit_day", "holder"),
    "cases_by_reviewer": ("tray", "reviewer_id", "waits", "sort_at", "reference", "kind", "state", "limit_day", "holder"),
}  # fmt: skip
#: as it was when this was written
FEW = 3


def upgrade() -> None:
    """To lists that tell the two apart."""
    op.add_column("cases", sa.Column("at_once", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("cases", sa.Column("changed_by", sa.String(40), nullable=False, server_default=""))
    cases = sa.table("cases", *(sa.column(name) for name in ("id", "tray", "squares", "at_once")))
    intake = op.get_bind().execute(sa.select(cases.c.id, cases.c.squares).where(cases.c.tray == "intake")).all()
    quick = []
    for id_, squares in intake:
        told = json.loads(squares) if isinstance(squares, str) else squares
        if sum(1 for standing, judged in told if not judged and standing != "met") <= FEW:
            quick.append(id_)
    for n in range(0, len(quick), 500):
        op.execute(cases.update().where(cases.c.id.in_(quick[n : n + 500])).values(at_once=sa.true()))
    for name, columns in INDEXES.items():
        op.drop_index(name, "cases")
        op.create_index(name, "cases", [*columns, "at_once"])
    op.create_index("case_reads_of", "case_reads", ["person_id", "case_id", "at"])


def downgrade() -> None:
    """To lists by time left alone."""
    op.drop_index("case_reads_of", "case_reads")
    for name, columns in INDEXES.items():
        op.drop_index(name, "cases")
        op.create_index(name, "cases", list(columns))
    op.drop_column("cases", "changed_by")
    op.drop_column("cases", "at_once")
