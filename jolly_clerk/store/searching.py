"""The index that cases are found by: one row a case, kept in the transaction of its list row.

SQLite keeps it in two FTS5 tables that follow the row by triggers (any part of a field by trigrams, a long text word by word);
PostgreSQL in two GIN indexes over the row itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy import ColumnElement, Select, TableClause, and_, column, func, literal_column, or_, select, table
from sqlalchemy.orm import InstrumentedAttribute, Session

from jolly_clerk.core.searching import Searched, Sought
from jolly_clerk.store.beside import SearchRow

#: so many of the newest that match are looked at
MOST = 200


def keep_searched(session: Session, case_id: str, found_by: Searched) -> None:
    """Keep what a case is found by, in the caller's transaction."""
    row = session.scalars(select(SearchRow).where(SearchRow.case_id == case_id)).first()
    if row is None:
        row = SearchRow(case_id=case_id)
        session.add(row)
    row.reference, row.person, row.person_last = found_by.reference[:40], found_by.person[:200], found_by.person_last[:200]
    row.fields, row.words = found_by.fields, found_by.words


def matching(session: Session, wanted: Sought) -> list[str]:
    """The ids of the cases that match, the best first, newest first among equals; at most :data:`MOST`.

    A reference or a number as a whole comes first, then what has every word in its fields, then in its long texts; if there is
    none of these, what has the words here and there.
    """
    found: dict[str, None] = {}
    ways = _postgres(wanted) if session.get_bind().dialect.name == "postgresql" else _sqlite(wanted)
    for query, only_if_none in ways:
        if not (only_if_none and found) and len(found) < MOST:
            found.update(dict.fromkeys(session.scalars(query.limit(MOST))))
    return list(found)[:MOST]


Way = tuple[Select[str], bool]


def _beginnings(wanted: Sought) -> Iterator[Way]:
    """What begins with short words: references, then names."""
    ids = select(SearchRow.case_id)
    yield ids.where(_begins(SearchRow.reference, "".join(wanted.short))).order_by(SearchRow.reference.desc()), False
    for name in (SearchRow.person, SearchRow.person_last):
        yield ids.where(_begins(name, " ".join(wanted.short))).order_by(name), False


def _begins(column: InstrumentedAttribute[str], start: str) -> ColumnElement[bool]:
    """A prefix as a range, which an index serves in either engine."""
    return and_(column >= start, column < start + "\uffff")


def _begun(wanted: Sought) -> list[ColumnElement[bool]]:
    return [or_(SearchRow.fields.startswith(w), SearchRow.fields.contains(f" {w}")) for w in wanted.short]


FIELDS, WORDS = table("search_fields", column("rowid")), table("search_words", column("rowid"))


def _sqlite(wanted: Sought) -> Iterator[Way]:
    begun = _begun(wanted)

    def matched(index: TableClause, words: Sequence[str]) -> Select[str]:
        found = select(SearchRow.case_id).join(index, index.c.rowid == SearchRow.id)
        return found.where(_match(index, words)).order_by(index.c.rowid.desc())

    if not wanted.long:
        yield from _beginnings(wanted)
    if wanted.whole and (wanted.short or len(wanted.long) > 1):
        yield matched(FIELDS, (wanted.whole,)), False
    if wanted.long:
        yield matched(FIELDS, wanted.long).where(*begun), False
        yield matched(WORDS, wanted.long).where(*begun), False
    if len(wanted.long) > 1:
        each = [
            or_(*(SearchRow.id.in_(select(index.c.rowid).where(_match(index, [w]))) for index in (FIELDS, WORDS)))
            for w in wanted.long
        ]
        yield select(SearchRow.case_id).where(*each, *begun).order_by(SearchRow.id.desc()), True


def _match(index: TableClause, words: Sequence[str]) -> ColumnElement[bool]:
    star = "*" if index is WORDS else ""
    return literal_column(index.name).op("MATCH")(" AND ".join(f'"{w}"{star}' for w in words))


def _postgres(wanted: Sought) -> Iterator[Way]:
    newest, begun = select(SearchRow.case_id).order_by(SearchRow.id.desc()), _begun(wanted)

    def in_fields(words: Sequence[str]) -> ColumnElement[bool]:
        return and_(*(SearchRow.fields.contains(w) for w in words))

    def in_words(words: Sequence[str]) -> ColumnElement[bool]:
        asked = func.to_tsquery(literal_column("'simple'"), " & ".join(f"{w}:*" for w in words))
        return func.to_tsvector(literal_column("'simple'"), SearchRow.words).op("@@")(asked)

    if not wanted.long:
        yield from _beginnings(wanted)
    if wanted.whole and (wanted.short or len(wanted.long) > 1):
        yield newest.where(in_fields((wanted.whole,))), False
    if wanted.long:
        yield newest.where(in_fields(wanted.long), *begun), False
        yield newest.where(in_words(wanted.long), *begun), False
    if len(wanted.long) > 1:
        yield newest.where(*(or_(in_fields([w]), in_words([w])) for w in wanted.long), *begun), True
