"""Profiles: the address and the telephone number with which an applicant's filings begin."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To profiles."""
    with op.batch_alter_table("people") as people:
        people.add_column(sa.Column("address", sa.String(300), nullable=False, server_default=""))
        people.add_column(sa.Column("telephone", sa.String(40), nullable=False, server_default=""))


def downgrade() -> None:
    """Back to lanes."""
    with op.batch_alter_table("people") as people:
        people.drop_column("telephone")
        people.drop_column("address")
