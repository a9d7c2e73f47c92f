"""Steps that are ready and leave a little later, so that they can still be taken back; what waits for a word in the office."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """A table of what is ready, and when the first of a case leaves; one of what waits for a word in the office."""
    op.create_table(
        "ready_steps",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("move", sa.String(40), nullable=False),
        sa.Column("lane", sa.String(60), nullable=False),
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("put_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("leaves_at", sa.DateTime(timezone=True), nullable=False, index=True),
        sa.Column("entries", sa.JSON, nullable=False),
        sa.Column("out", sa.JSON, nullable=False),
        sa.Column("relies_on", sa.JSON, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "waiting_words",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("no", sa.Integer, nullable=False),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("to_id", sa.String(40), nullable=False),
        sa.Column("by_id", sa.String(40), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("text", sa.String(200), nullable=False),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("over", sa.Boolean, nullable=False),
    )
    op.create_index("waiting_words_open", "waiting_words", ["over", "seen_at", "what", "at"])
    op.add_column("outbox", sa.Column("by_post", sa.Boolean, nullable=False, server_default=sa.false()))
    op.add_column("cases", sa.Column("leaves_at", sa.DateTime(timezone=True), nullable=True))
    op.create_index("ix_cases_leaves_at", "cases", ["leaves_at"])


def downgrade() -> None:
    """Without them."""
    op.drop_index("ix_cases_leaves_at", "cases")
    op.drop_column("cases", "leaves_at")
    op.drop_column("outbox", "by_post")
    op.drop_table("ready_steps")
    op.drop_table("waiting_words")
