"""To whom a draft is offered, who owns it once they accept."""

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To drafts that can be transferred."""
    op.add_column("drafts", sa.Column("offered_to", sa.String(200), nullable=False, server_default=""))
    op.create_index("ix_drafts_offered_to", "drafts", ["offered_to"])


def downgrade() -> None:
    """Without them."""
    op.drop_index("ix_drafts_offered_to", "drafts")
    op.drop_column("drafts", "offered_to")
