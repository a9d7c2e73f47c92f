"""Who of the office is away, and who stands in."""

import sqlalchemy as sa
from alembic import op

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To absences."""
    op.create_table(
        "absences",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("deputy_id", sa.String(40), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=False),
        sa.Column("made_by", sa.String(40), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    """Without them."""
    op.drop_table("absences")
