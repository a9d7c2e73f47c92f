"""Short filings on permits, inspections, and what ended a permit before its time in the public register."""

import sqlalchemy as sa
from alembic import op

revision = "0044"
down_revision = "0043"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose permits live on."""
    op.create_table(
        "filed_steps",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("permit_case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("reference", sa.String(20), nullable=False),
        sa.Column("permit", sa.String(20), nullable=False),
        sa.Column("kind", sa.String(2), nullable=False),
        sa.Column("done_at", sa.DateTime(), nullable=True, index=True),
    )
    op.create_table(
        "booked_hours",
        sa.Column("kind", sa.String(2), primary_key=True),
        sa.Column("begins", sa.DateTime(), primary_key=True),
        sa.Column("day", sa.Date(), nullable=False, index=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, index=True),
        sa.Column("no", sa.Integer(), nullable=False),
    )
    op.add_column("public_register", sa.Column("ended", sa.String(12), nullable=False, server_default=""))


def downgrade() -> None:
    """Without them."""
    with op.batch_alter_table("public_register") as table:
        table.drop_column("ended")
    op.drop_table("booked_hours")
    op.drop_table("filed_steps")
