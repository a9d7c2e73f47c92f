"""A case that was taken back stands once among one's own: with what one prepares, no longer also with the office."""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To cases that stand where they are prepared."""
    op.execute("UPDATE cases SET place = 'preparing' WHERE state = 'Draft'")


def downgrade() -> None:
    """Back to cases that stand with the office until they are closed."""
    op.execute("UPDATE cases SET place = 'running' WHERE place = 'preparing'")
