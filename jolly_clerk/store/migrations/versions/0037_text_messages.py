"""Text messages: a number that is known, codes by text, which news go by which way."""

import sqlalchemy as sa
from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To text messages."""
    op.add_column("people", sa.Column("mobile", sa.String(40), nullable=False, server_default=""))
    op.add_column("people", sa.Column("code_by_text", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("people", sa.Column("news", sa.JSON(), nullable=False, server_default="{}"))
    op.create_table(
        "text_codes",
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), primary_key=True),
        sa.Column("purpose", sa.String(20), primary_key=True),
        sa.Column("number", sa.String(40), nullable=False),
        sa.Column("code_hash", sa.String(64), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("tries_left", sa.Integer(), nullable=False),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("text_codes")
    for name in ("news", "code_by_text", "mobile"):
        op.drop_column("people", name)
