"""Uploads that are under way, so that one that broke off goes on where it stopped."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To uploads that are resumed."""
    op.create_table(
        "uploads",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("person_id", sa.String(40), nullable=False, index=True),
        sa.Column("draft_id", sa.String(40), nullable=False),
        sa.Column("slot", sa.String(60), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("length", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    """Back to uploads that begin anew."""
    op.drop_table("uploads")
