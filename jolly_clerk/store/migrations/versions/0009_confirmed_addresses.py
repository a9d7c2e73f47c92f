"""Accounts: addresses that are confirmed by a code, rights by kind, tries that slow the next ones down, sessions that end when idle,
mails whose links are dropped."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To confirmed addresses. Whoever has an account already is taken as confirmed."""
    op.add_column("people", sa.Column("confirmed", sa.Boolean(), nullable=False, server_default="1"))
    op.add_column("people", sa.Column("kinds", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("people", sa.Column("made_at", sa.DateTime(), nullable=True))
    op.add_column("sign_ins", sa.Column("seen_at", sa.DateTime(), nullable=True))
    op.add_column("outbox", sa.Column("secret_until", sa.DateTime(), nullable=True))
    op.create_index("outbox_waiting", "outbox", ["delivered_at", "trouble", "put_at"])
    op.create_index("ix_sign_ins_person_id", "sign_ins", ["person_id"])
    op.create_table(
        "mail_codes",
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), primary_key=True),
        sa.Column("code_hash", sa.String(64), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("tries_left", sa.Integer(), nullable=False),
    )
    op.create_table(
        "tries",
        sa.Column("what", sa.String(20), primary_key=True),
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("last_at", sa.DateTime(), nullable=False, index=True),
    )
    op.drop_table("sign_in_failures")


def downgrade() -> None:
    """Back to addresses that are taken as they are."""
    op.create_table(
        "sign_in_failures",
        sa.Column("mail", sa.String(200), primary_key=True),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("last_at", sa.DateTime(), nullable=False),
    )
    op.drop_table("tries")
    op.drop_table("mail_codes")
    op.drop_index("ix_sign_ins_person_id", "sign_ins")
    op.drop_index("outbox_waiting", "outbox")
    op.drop_column("outbox", "secret_until")
    op.drop_column("sign_ins", "seen_at")
    for name in ("made_at", "kinds", "confirmed"):
        op.drop_column("people", name)
