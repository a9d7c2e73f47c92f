"""Who looked at what, what is to be erased, and which cases name a file."""

import re

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

#: uploads, letters and permits, as the JSON of entries and versions names them
NAMED = re.compile(r'"(?:letter_|permit_)?sha256":\s?"([0-9a-f]{64})"')


def upgrade() -> None:
    """To erasing. Which files a case names is taken from its history and its versions."""
    op.add_column("cases", sa.Column("erased_at", sa.DateTime(), nullable=True))
    op.create_table(
        "looks",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("at", sa.DateTime(), nullable=False, index=True),
        sa.Column("person_id", sa.String(40), nullable=False, index=True),
        sa.Column("what", sa.String(20), nullable=False),
        sa.Column("reference", sa.String(40), nullable=False, server_default="", index=True),
        sa.Column("detail", sa.String(200), nullable=False, server_default=""),
    )
    op.create_table(
        "erasures",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("what", sa.String(10), nullable=False),
        sa.Column("target_id", sa.String(40), nullable=False, unique=True),
        sa.Column("called", sa.String(40), nullable=False),
        sa.Column("reason", sa.String(300), nullable=False),
        sa.Column("asked_by", sa.String(40), nullable=False),
        sa.Column("asked_at", sa.DateTime(), nullable=False),
        sa.Column("confirmed_by", sa.String(40), nullable=False, server_default=""),
        sa.Column("done_at", sa.DateTime(), nullable=True),
        sa.Column("public", sa.JSON(), nullable=False, server_default="{}"),
        sa.Column("files", sa.JSON(), nullable=False, server_default="[]"),
    )
    uses = op.create_table(
        "file_uses",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), primary_key=True, index=True),
    )
    bind, found = op.get_bind(), set[tuple[str, str]]()
    for query in ("select case_id, body, personal from entries", "select case_id, dossier, '' from versions"):
        for case_id, text, more in bind.execute(sa.text(query)):
            found.update((sha256, case_id) for sha256 in NAMED.findall(text + (more or "")))
    if found:
        op.bulk_insert(uses, [{"sha256": sha256, "case_id": case_id} for sha256, case_id in sorted(found)])


def downgrade() -> None:
    """Back to an office that keeps everything."""
    for name in ("file_uses", "erasures", "looks"):
        op.drop_table(name)
    op.drop_column("cases", "erased_at")
