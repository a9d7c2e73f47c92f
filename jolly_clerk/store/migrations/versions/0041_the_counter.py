"""The counter: filings that the office records, papers put right by hand, things that came by post."""

import sqlalchemy as sa
from alembic import op

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To a counter."""
    op.create_table(
        "counter_filings",
        sa.Column("draft_id", sa.String(40), primary_key=True),
        sa.Column("owner_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("recorded_by", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("kind", sa.String(2), nullable=False),
        sa.Column("came", sa.String(10), nullable=False),
        sa.Column("reached", sa.Date(), nullable=False),
        sa.Column("begun_at", sa.DateTime(), nullable=False),
        sa.Column("reference", sa.String(20), nullable=False, server_default="", index=True),
    )
    op.create_table(
        "put_right_by_hand",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("kind", sa.String(2), nullable=False, index=True),
        sa.Column("slot", sa.String(80), nullable=False),
        sa.Column("words", sa.String(300), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("by_id", sa.String(40), nullable=False),
    )
    op.create_table(
        "dockets_sent",
        sa.Column("no", sa.String(20), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
    )
    op.create_table(
        "calendar_feeds",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("team", sa.Boolean(), nullable=False, server_default=sa.false()),
        sa.Column("secret_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("read_at", sa.DateTime(), nullable=True),
    )
    op.create_table(
        "turnings",
        sa.Column("draft_id", sa.String(40), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("reference", sa.String(20), nullable=False),
        sa.Column("kind", sa.String(2), nullable=False),
        sa.Column("proposed_by", sa.String(40), nullable=False),
        sa.Column("because", sa.String(1000), nullable=False),
        sa.Column("proposed_at", sa.DateTime(), nullable=False),
        sa.Column("filed_at", sa.DateTime(), nullable=False),
        sa.Column("became", sa.String(20), nullable=False, server_default="", index=True),
        sa.Column("done_at", sa.DateTime(), nullable=True),
    )
    op.create_table(
        "own_views",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("whose", sa.String(20), nullable=False, server_default=""),
        sa.Column("kind", sa.String(2), nullable=False, server_default=""),
        sa.Column("view", sa.String(30), nullable=False, server_default=""),
    )


def downgrade() -> None:
    """Without one."""
    for table in ("own_views", "turnings", "calendar_feeds", "dockets_sent", "put_right_by_hand", "counter_filings"):
        op.drop_table(table)
