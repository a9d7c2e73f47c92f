"""Accounts with passwords, register answers, reviewers and permits, mail without a paper."""

import sqlalchemy as sa
from alembic import op

import jolly_clerk.store.tables

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

Instant = jolly_clerk.store.tables.Instant


def upgrade() -> None:
    """To accounts and endings."""
    op.create_table(
        "one_time_links",
        sa.Column("secret_hash", sa.String(64), primary_key=True),
        sa.Column("person_id", sa.String(), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("allows", sa.String(30), nullable=False),
        sa.Column("until", Instant(), nullable=False),
    )
    op.create_table(
        "sign_in_failures",
        sa.Column("mail", sa.String(200), primary_key=True),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("last_at", Instant(), nullable=False),
    )
    op.create_table(
        "register_answers",
        sa.Column("register", sa.String(40), primary_key=True),
        sa.Column("key", sa.String(120), primary_key=True),
        sa.Column("row", sa.JSON(), nullable=True),
        sa.Column("asked_at", Instant(), nullable=False),
    )
    with op.batch_alter_table("people") as people:
        people.add_column(sa.Column("password_hash", sa.String(200), nullable=False, server_default=""))
        people.add_column(sa.Column("left_at", Instant(), nullable=True))
        people.create_index("ix_people_mail", ["mail"])
    with op.batch_alter_table("cases") as cases:
        cases.add_column(sa.Column("reviewer_id", sa.String(), nullable=True))
        cases.add_column(sa.Column("permit_code", sa.String(40), nullable=True))
        cases.create_index("ix_cases_reviewer_id", ["reviewer_id"])
        cases.create_index("ix_cases_permit_code", ["permit_code"])
        cases.create_foreign_key("cases_reviewer", "people", ["reviewer_id"], ["id"])
    with op.batch_alter_table("terminal_payments") as payments:
        payments.add_column(sa.Column("prepaid", sa.String(30), nullable=False, server_default="0"))
    with op.batch_alter_table("outbox") as outbox:
        outbox.add_column(sa.Column("text", sa.Text(), nullable=False, server_default=""))
        outbox.alter_column("case_id", existing_type=sa.String(), nullable=True)
