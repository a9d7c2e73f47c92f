"""Cases that came from elsewhere and are kept as they came; a seal of each list row, so that it can be verified without its rules."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To cases from elsewhere. Rows without a seal are verified by their rules."""
    op.add_column("heads", sa.Column("row_hash", sa.String(64), nullable=False, server_default=""))
    op.add_column("cases", sa.Column("kept", sa.Boolean(), nullable=False, server_default="0"))
    op.create_table(
        "kept_cases",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("told", sa.Text(), nullable=False),
    )


def downgrade() -> None:
    """Back to cases of one's own alone."""
    op.drop_table("kept_cases")
    op.drop_column("cases", "kept")
    op.drop_column("heads", "row_hash")
