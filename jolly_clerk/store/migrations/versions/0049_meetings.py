"""Meetings, and the cases on their agendas."""

import sqlalchemy as sa
from alembic import op

revision = "0049"
down_revision = "0048"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """To an office whose bodies meet."""
    op.create_table(
        "meetings",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("body", sa.String(60), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("begins", sa.DateTime(), nullable=False),
        sa.Column("place", sa.String(200), nullable=False),
        sa.Column("made_by", sa.String(40), nullable=False),
        sa.Column("called_off", sa.Text(), nullable=False),
    )
    op.create_index("ix_meetings_body", "meetings", ["body"])
    op.create_index("ix_meetings_day", "meetings", ["day"])
    op.create_table(
        "agenda_items",
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True),
        sa.Column("meeting_id", sa.String(40), primary_key=True),
        sa.Column("body", sa.String(60), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("result", sa.String(20), nullable=False),
    )
    op.create_index("ix_agenda_items_meeting_id", "agenda_items", ["meeting_id"])


def downgrade() -> None:
    """Without them."""
    op.drop_table("agenda_items")
    op.drop_table("meetings")
