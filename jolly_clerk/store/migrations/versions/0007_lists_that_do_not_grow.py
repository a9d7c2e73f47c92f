"""Lists that do not grow: in which in-tray a case lies, when the clock job looks at it next, and the indexes that pages are read by."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

COLUMNS: tuple[sa.Column[object], ...] = (
    sa.Column("tray", sa.String(10), nullable=False, server_default=""),
    sa.Column("waits", sa.Boolean(), nullable=False, server_default=sa.false()),
    sa.Column("sort_at", sa.DateTime(), nullable=False, server_default="9999-12-31 00:00:00"),
    sa.Column("place", sa.String(10), nullable=False, server_default=""),
    sa.Column("next_look_at", sa.DateTime(), nullable=True),
)
INDEXES = {
    "cases_in_tray": (
        "tray", "waits", "sort_at", "reference", "kind", "state", "officer_id", "holder", "limit_day", "their_limit_day",
    ),
    "cases_by_officer": ("tray", "officer_id", "waits", "sort_at", "reference"),
    "cases_by_reviewer": ("tray", "reviewer_id", "waits", "sort_at", "reference"),
    "cases_of_applicant": ("applicant_id", "place", "changed_at", "reference"),
    "ix_cases_next_look_at": ("next_look_at",),
}  # fmt: skip
#: the states as they were when this was written
INTAKE = ("Waiting for payment", "Filed", "Being checked", "Answers wanted", "Answers came back", "Complete")
REVIEW = ("Under review",)
FINAL = ("Granted", "Refused", "Not accepted", "Out of scope", "Lapsed", "Withdrawn")


def upgrade() -> None:
    """To lists that are read by index."""
    op.drop_index("cases_by_limit", "cases")
    op.drop_index("cases_by_officer", "cases")
    for column in COLUMNS:
        op.add_column("cases", column.copy())
    c = sa.table("cases", *(sa.column(name) for name in (
        "tray", "waits", "sort_at", "place", "next_look_at", "state", "holder", "step", "limit_at", "their_limit_day", "filed_at",
    )))  # fmt: skip
    theirs = sa.or_(c.c.holder == "theirs", c.c.their_limit_day.is_not(None))
    closed = sa.and_(c.c.state.in_(FINAL), c.c.step != "issue payment")
    shown = c.c.state.in_((*INTAKE, *REVIEW, *FINAL))
    op.execute(
        c.update().values(
            tray=sa.case((c.c.state.in_(INTAKE), "intake"), (c.c.state.in_(REVIEW), "review"), else_=""),
            waits=sa.and_(c.c.holder == "theirs", c.c.their_limit_day.is_(None)),
            sort_at=sa.func.coalesce(c.c.limit_at, sa.literal_column("'9999-12-31 00:00:00.000000'")),
            place=sa.case((closed, "closed"), (sa.and_(theirs, shown), "waiting"), else_="running"),
            next_look_at=c.c.filed_at,
        )
    )
    for name, columns in INDEXES.items():
        op.create_index(name, "cases", list(columns))


def downgrade() -> None:
    """Back to lists that are counted row by row."""
    for name in INDEXES:
        op.drop_index(name, "cases")
    for column in COLUMNS:
        op.drop_column("cases", column.name)
    op.create_index("cases_by_limit", "cases", ["state", "limit_at"])
    op.create_index("cases_by_officer", "cases", ["officer_id", "state", "limit_at"])
