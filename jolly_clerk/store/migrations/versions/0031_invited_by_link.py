"""Invitations by link and code, with reminders; people who came by one and have no password yet."""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None

TEXTS, TIMES, COUNTS = ("link_hash", "code_hash"), ("link_until", "code_until", "reminded_at"), ("tries_left", "reminded")


def upgrade() -> None:
    """To invitations that work by link and code."""
    op.add_column("people", sa.Column("guest", sa.Boolean(), nullable=False, server_default=sa.false()))
    for name in TEXTS:
        op.add_column("invitations", sa.Column(name, sa.String(64), nullable=False, server_default=""))
    for name in TIMES:
        op.add_column("invitations", sa.Column(name, sa.DateTime(), nullable=True))
    for name in COUNTS:
        op.add_column("invitations", sa.Column(name, sa.Integer(), nullable=False, server_default="0"))
    op.create_index("ix_invitations_link_hash", "invitations", ["link_hash"])


def downgrade() -> None:
    """Without them."""
    op.drop_index("ix_invitations_link_hash", "invitations")
    for name in (*TEXTS, *TIMES, *COUNTS):
        op.drop_column("invitations", name)
    op.drop_column("people", "guest")
