"""More of what an account says of its person: birth, firm, language, how letters come."""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None

TEXTS = (("firm", 120), ("language", 10), ("letters", 10))


def upgrade() -> None:
    """To fuller profiles."""
    op.add_column("people", sa.Column("born", sa.Date(), nullable=True))
    for name, length in TEXTS:
        op.add_column("people", sa.Column(name, sa.String(length), nullable=False, server_default=""))


def downgrade() -> None:
    """Without them."""
    for name, _ in TEXTS:
        op.drop_column("people", name)
    op.drop_column("people", "born")
