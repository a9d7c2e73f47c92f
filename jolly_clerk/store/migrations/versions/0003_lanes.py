"""Lanes: whose limit a list shows, the applicant's own limit beside it, the lane that a draft answers; what an edition makes of a case."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To lanes."""
    with op.batch_alter_table("cases") as cases:
        cases.add_column(sa.Column("limit_of", sa.String(120), nullable=False, server_default=""))
        cases.add_column(sa.Column("outcome", sa.JSON(), nullable=False, server_default="{}"))
        cases.add_column(sa.Column("their_limit_of", sa.String(120), nullable=False, server_default=""))
        cases.add_column(sa.Column("their_limit_day", sa.Date(), nullable=True))
    with op.batch_alter_table("drafts") as drafts:
        drafts.add_column(sa.Column("lane", sa.String(60), nullable=False, server_default=""))


def downgrade() -> None:
    """Back to accounts and endings."""
    with op.batch_alter_table("drafts") as drafts:
        drafts.drop_column("lane")
    with op.batch_alter_table("cases") as cases:
        cases.drop_column("outcome")
        cases.drop_column("their_limit_day")
        cases.drop_column("their_limit_of")
        cases.drop_column("limit_of")
