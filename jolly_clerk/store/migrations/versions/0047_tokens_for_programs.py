"""Tokens by which a person's programs use the interface."""

import sqlalchemy as sa
from alembic import op

revision = "0047"
down_revision = "0046"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose interface knows tokens."""
    op.create_table(
        "api_tokens",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("secret_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("scope", sa.String(10), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("until", sa.DateTime(), nullable=False),
        sa.Column("used_at", sa.DateTime(), nullable=True),
    )
    op.create_index("ix_api_tokens_person_id", "api_tokens", ["person_id"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("api_tokens")
