"""The ledger: money that came in, where it was placed, what is to go back."""

import json
import uuid
from datetime import UTC, date, datetime

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None
AT_ONCE = 5000


def upgrade() -> None:
    """To a ledger. What was paid is taken from the histories; what a terminal told and fits no order stands there as not placed."""
    money = op.create_table(
        "money_in",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("key", sa.String(100), nullable=False, unique=True),
        sa.Column("means", sa.String(10), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("value_day", sa.Date(), nullable=False),
        sa.Column("payer", sa.String(200), nullable=False, server_default=""),
        sa.Column("account", sa.String(60), nullable=False, server_default=""),
        sa.Column("receipt", sa.String(20), nullable=False, index=True),
        sa.Column("came_at", sa.DateTime(), nullable=False),
        sa.Column("booked_by", sa.String(40), nullable=False),
        sa.Column("left", sa.String(30), nullable=False, server_default="0"),
        sa.Column("is_left", sa.Boolean(), nullable=False, server_default=sa.false(), index=True),
        sa.Column("why", sa.String(200), nullable=False, server_default=""),
        sa.Column("order", sa.String(80), nullable=False, server_default=""),
    )
    placings = op.create_table(
        "placings",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("money_id", sa.String(40), sa.ForeignKey("money_in.id"), nullable=False, index=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("key", sa.String(110), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("charged_back_at", sa.DateTime(), nullable=True),
    )
    op.create_table(
        "refunds",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=True, index=True),
        sa.Column("money_id", sa.String(40), sa.ForeignKey("money_in.id"), nullable=True),
        sa.Column("key", sa.String(110), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("due_at", sa.DateTime(), nullable=False),
        sa.Column("left_at", sa.DateTime(), nullable=True, index=True),
        sa.Column("approved_by", sa.String(40), nullable=False, server_default=""),
        sa.Column("means", sa.String(10), nullable=False, server_default=""),
        sa.Column("account", sa.String(60), nullable=False, server_default=""),
    )
    _from_histories(money, placings)
    _not_placed(money)
    with op.batch_alter_table("terminal_notices") as notices:
        notices.drop_column("not_placed")
    op.drop_table("booked_by_hand")


def _from_histories(money: sa.Table, placings: sa.Table) -> None:
    """Each payment of a history becomes money in that was placed; its currency is that of the case."""
    entries = sa.table("entries", sa.column("case_id"), sa.column("no"), sa.column("body"))
    wanted = sa.select(entries.c.case_id, entries.c.body).where(entries.c.body.like('%"what":"paid"%'))
    keys: set[str] = set()
    rows: list[dict[str, object]] = []
    placed: list[dict[str, object]] = []
    for case_id, body in op.get_bind().execute(wanted.order_by(entries.c.case_id, entries.c.no)).tuples().all():
        told = json.loads(body)
        key = told["key"] if told["key"] not in keys else f"{told['key']} {case_id}"[:100]
        if key in keys:
            continue
        keys.add(key)
        id_, at = uuid.uuid4().hex, datetime.fromisoformat(told["at"]).astimezone(UTC).replace(tzinfo=None)
        rows.append(
            {
                "id": id_,
                "key": key,
                "means": told.get("means", "card"),
                "amount": told["amount"],
                "currency": "",
                "value_day": at.date(),
                "receipt": told.get("receipt", ""),
                "came_at": at,
                "booked_by": told["who"],
                "order": "",
            }
        )
        placed.append({"money_id": id_, "case_id": case_id, "key": told["key"], "amount": told["amount"], "at": at})
    for first in range(0, len(rows), AT_ONCE):
        op.bulk_insert(money, rows[first : first + AT_ONCE])
        op.bulk_insert(placings, placed[first : first + AT_ONCE])


def _not_placed(money: sa.Table) -> None:
    notices = sa.table(
        "terminal_notices",
        *(sa.column(name) for name in ("notice", "order", "amount", "currency", "outcome", "not_placed")),
        sa.column("at", sa.DateTime()),
    )
    wanted = sa.select(notices).where(notices.c.not_placed != "", notices.c.outcome == "approved")
    rows = [
        {
            "id": uuid.uuid4().hex,
            "key": f"notice {n.notice}"[:100],
            "means": "card",
            "amount": n.amount,
            "currency": n.currency,
            "value_day": n.at.date() if isinstance(n.at, datetime) else date.fromisoformat(str(n.at)[:10]),
            "receipt": "",
            "came_at": n.at,
            "booked_by": "terminal",
            "left": n.amount,
            "is_left": True,
            "why": n.not_placed,
            "order": n.order,
        }
        for n in op.get_bind().execute(wanted)
    ]
    if rows:
        op.bulk_insert(money, rows)


def downgrade() -> None:
    """Back to histories alone."""
    op.create_table(
        "booked_by_hand",
        sa.Column("key", sa.String(80), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False),
    )
    op.add_column("terminal_notices", sa.Column("not_placed", sa.String(200), nullable=False, server_default=""))
    for table in ("refunds", "placings", "money_in"):
        op.drop_table(table)
