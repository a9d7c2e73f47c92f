"""Payments: the notices of terminals, the currency of an order, the numbers of money booked by hand."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To signed notices. The numbers of transfers, cheques and cash slips that were booked are taken from the histories."""
    op.add_column("terminal_payments", sa.Column("currency", sa.String(3), nullable=False, server_default=""))
    op.create_table(
        "terminal_notices",
        sa.Column("notice", sa.String(80), primary_key=True),
        sa.Column("order", sa.String(80), nullable=False, index=True),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("outcome", sa.String(12), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("not_placed", sa.String(200), nullable=False, server_default=""),
    )
    booked = op.create_table(
        "booked_by_hand",
        sa.Column("key", sa.String(80), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False),
    )
    entries = sa.table("entries", sa.column("case_id"), sa.column("no"), sa.column("body"))
    paid = sa.select(entries.c.case_id, entries.c.body).where(entries.c.body.like('%"what":"paid"%')).order_by(entries.c.no)
    rows: dict[str, str] = {}
    for case_id, body in op.get_bind().execute(paid):
        told = json.loads(body)
        if told.get("means", "card") != "card":
            rows.setdefault(told["key"], case_id)
    if rows:
        op.bulk_insert(booked, [{"key": key, "case_id": case_id} for key, case_id in rows.items()])


def downgrade() -> None:
    """Back to notices that are believed."""
    op.drop_table("booked_by_hand")
    op.drop_table("terminal_notices")
    op.drop_column("terminal_payments", "currency")
