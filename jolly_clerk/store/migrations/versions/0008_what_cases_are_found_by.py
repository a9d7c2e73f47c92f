"""What cases are found by: an index of their fields by trigrams and of their long texts by words."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

#: the two FTS5 tables of SQLite follow the rows; the old text is needed to take it out
TAKE_OUT = "insert into search_{0}(search_{0}, rowid, {0}) values ('delete', old.id, old.{0});"
PUT_IN = "insert into search_{0}(rowid, {0}) values (new.id, new.{0});"
SQLITE = (
    "create virtual table search_{0} using fts5({0}, content='searched', content_rowid='id', tokenize='{1}')",
    f"create trigger search_{{0}}_put after insert on searched begin {PUT_IN} end",
    f"create trigger search_{{0}}_out after delete on searched begin {TAKE_OUT} end",
    f"create trigger search_{{0}}_new after update of {{0}} on searched when old.{{0}} <> new.{{0}} begin {TAKE_OUT} {PUT_IN} end",
)
POSTGRES = (
    'alter table searched alter column reference type varchar(40) collate "C", alter column person type varchar(200) collate "C",'
    ' alter column person_last type varchar(200) collate "C"',
    "create extension if not exists pg_trgm",
    "create index search_fields on searched using gin (fields gin_trgm_ops)",
    "create index search_words on searched using gin (to_tsvector('simple', words))",
)


def upgrade() -> None:
    """To a search by index. The rows of cases that are there already are written by the clock job."""
    op.create_table(
        "searched",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("case_id", sa.String(40), sa.ForeignKey("cases.id"), nullable=False, unique=True),
        sa.Column("reference", sa.String(40), nullable=False, server_default="", index=True),
        sa.Column("person", sa.String(200), nullable=False, server_default="", index=True),
        sa.Column("person_last", sa.String(200), nullable=False, server_default="", index=True),
        sa.Column("fields", sa.Text(), nullable=False, server_default=""),
        sa.Column("words", sa.Text(), nullable=False, server_default=""),
    )
    if op.get_bind().dialect.name == "postgresql":
        for statement in POSTGRES:
            op.execute(statement)
        return
    for name, tokens in (("fields", "trigram"), ("words", "unicode61")):
        for statement in SQLITE:
            op.get_bind().exec_driver_sql(statement.format(name, tokens))


def downgrade() -> None:
    """Back to a search that reads every row."""
    if op.get_bind().dialect.name != "postgresql":
        op.execute("drop table search_fields")
        op.execute("drop table search_words")
    op.drop_table("searched")
