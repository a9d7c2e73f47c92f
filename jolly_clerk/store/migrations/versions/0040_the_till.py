"""The till: statements and their movements, days of a drawer, files of payments, which case awaits money."""

import sqlalchemy as sa
from alembic import op

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None


def _text(name: str, length: int) -> sa.Column[str]:
    return sa.Column(name, sa.String(length), nullable=False, server_default="")


def upgrade() -> None:
    """To a till."""
    op.create_table(
        "statements",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("sha256", sa.String(64), nullable=False, index=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("number", sa.String(100), nullable=False),
        sa.Column("account", sa.String(60), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        _text("opening", 30),
        _text("closing", 30),
        sa.Column("movements", sa.Integer(), nullable=False),
        sa.Column("read_at", sa.DateTime(), nullable=False, index=True),
        sa.Column("read_by", sa.String(40), nullable=False),
    )
    op.create_table(
        "movements",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("statement_id", sa.String(40), sa.ForeignKey("statements.id"), nullable=False, index=True),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("key", sa.String(130), nullable=False, unique=True),
        sa.Column("mark", sa.String(60), nullable=False),
        sa.Column("booked", sa.Date(), nullable=False),
        sa.Column("value_day", sa.Date(), nullable=False),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        _text("payer", 140),
        _text("account", 40),
        _text("text", 400),
        _text("end_to_end", 35),
        sa.Column("returned", sa.Boolean(), nullable=False, server_default=sa.false()),
        _text("reason", 105),
        _text("done", 20),
        _text("why", 300),
        sa.Column("plan", sa.JSON(), nullable=False),
        sa.Column("underway", sa.Boolean(), nullable=False, server_default=sa.false(), index=True),
        sa.Column("done_at", sa.DateTime(), nullable=True, index=True),
        _text("done_by", 40),
        sa.Column("money_id", sa.String(40), nullable=True),
    )
    op.create_index("movements_open", "movements", ["done", "booked"])
    op.create_table(
        "till_days",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("till", sa.String(40), nullable=False, index=True),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("begins", sa.DateTime(), nullable=False),
        sa.Column("opened_at", sa.DateTime(), nullable=False),
        sa.Column("opened_by", sa.String(40), nullable=False),
        sa.Column("opened_with", sa.String(30), nullable=False),
        _text("counted", 30),
        _text("counted_by", 40),
        _text("because", 300),
        sa.Column("closed_at", sa.DateTime(), nullable=True, index=True),
        _text("closed_by", 40),
        sa.Column("number", sa.Integer(), nullable=True, unique=True),
        sa.Column("told", sa.Text(), nullable=False, server_default=""),
    )
    op.create_table(
        "payment_files",
        sa.Column("no", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("total", sa.String(30), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("made_by", sa.String(40), nullable=False),
    )
    op.create_table(
        "owed",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("applicant_id", sa.String(40), nullable=False, index=True),
        sa.Column("amount", sa.String(30), nullable=False),
        sa.Column("currency", sa.String(3), nullable=False),
        sa.Column("until", sa.Date(), nullable=True),
    )
    op.create_index("owed_amount", "owed", ["amount", "currency"])
    op.add_column("money_in", sa.Column("till_id", sa.String(40), nullable=True))
    op.create_index("ix_money_in_till_id", "money_in", ["till_id"])
    op.create_index("ix_money_in_account", "money_in", ["account"])
    op.create_index("ix_money_in_came_at", "money_in", ["came_at"])
    op.add_column("placings", sa.Column("till_id", sa.String(40), nullable=True))
    op.create_index("ix_placings_charged_back_at", "placings", ["charged_back_at"])
    op.add_column("refunds", sa.Column("till_id", sa.String(40), nullable=True))
    op.add_column("refunds", sa.Column("file_no", sa.Integer(), nullable=True))
    op.create_index("ix_refunds_file_no", "refunds", ["file_no"])
    op.add_column("refunds", sa.Column("seen_day", sa.Date(), nullable=True))


def downgrade() -> None:
    """Without one."""
    op.drop_column("refunds", "seen_day")
    op.drop_index("ix_refunds_file_no", "refunds")
    op.drop_column("refunds", "file_no")
    op.drop_column("refunds", "till_id")
    op.drop_index("ix_placings_charged_back_at", "placings")
    op.drop_column("placings", "till_id")
    op.drop_index("ix_money_in_account", "money_in")
    op.drop_index("ix_money_in_came_at", "money_in")
    op.drop_index("ix_money_in_till_id", "money_in")
    op.drop_column("money_in", "till_id")
    for table in ("owed", "payment_files", "till_days", "movements", "statements"):
        op.drop_table(table)
