"""Several reviewers of a case: who has not signed off yet."""

import sqlalchemy as sa
from alembic import op

revision = "0048"
down_revision = "0047"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose cases go to several reviewers."""
    op.create_table(
        "to_sign_off",
        sa.Column("person_id", sa.String(40), sa.ForeignKey("people.id"), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
    )
    op.create_index("ix_to_sign_off_case_id", "to_sign_off", ["case_id"])


def downgrade() -> None:
    """Without it."""
    op.drop_table("to_sign_off")
