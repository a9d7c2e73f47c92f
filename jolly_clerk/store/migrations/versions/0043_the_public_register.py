"""The public register."""

import sqlalchemy as sa
from alembic import op

revision = "0043"
down_revision = "0042"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office with a public register. Editions that were published before have none, so no case has to be entered."""
    op.create_table(
        "public_register",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("reference", sa.String(20), nullable=False, unique=True),
        sa.Column("kind", sa.String(2), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("outcome", sa.String(10), nullable=False),
        sa.Column("decided", sa.Date(), nullable=False),
        sa.Column("starts", sa.Date(), nullable=True),
        sa.Column("until", sa.Date(), nullable=True),
        sa.Column("place", sa.String(200), nullable=False, server_default=""),
        sa.Column("map", sa.String(40), nullable=False, server_default=""),
        sa.Column("words", sa.String(2000), nullable=False, server_default=""),
        sa.Column("says", sa.JSON(), nullable=False),
    )
    op.create_index("public_by_day", "public_register", ["decided", "reference"])
    op.create_index("public_by_kind", "public_register", ["kind", "decided", "reference"])


def downgrade() -> None:
    """Without one."""
    op.drop_table("public_register")
