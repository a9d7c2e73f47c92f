"""Doing something to a case and telling the applicant by a letter, in one write."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from sqlalchemy.orm import Session

from jolly_clerk.core.history import Entry
from jolly_clerk.core.moves import MoveName
from jolly_clerk.core.news import News
from jolly_clerk.office.cases.casework import Decide, Loaded, act
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.mailing import deliver_soon, put_out
from jolly_clerk.office.post.papers import subject_of
from jolly_clerk.store.chain import Sealed
from jolly_clerk.store.tables import Case


def _news(letter: str) -> News:
    """Of which kind of news a letter is, by the name of its text."""
    return "reminders" if letter.endswith("reminder") else "letters"


def act_and_tell(
    office: Office,
    who: Who,
    loaded: Loaded,
    move: MoveName | Literal[""],
    entries: Decide,
    letter: str,
    sha256: str,
    key: str = "",
    count: int = 0,
    also: Callable[[Session, Case, Sequence[Entry]], None] | None = None,
    *,
    lane: str = "",
    sealed: Sealed | None = None,
) -> Loaded:
    """Append what ``entries`` decide and lay the letter out, both or neither; then let it go.

    Args:
        loaded: the case for which the letter was rendered. If anything that a move relies on was touched since, Stale is raised.
        move: the move that is made; empty for what happens by itself.
        letter: the name of its text in the rulebook.
        sha256: the rendered letter in the vault.
        key: tells letters of the same name apart.
        count: goes into the subject.
        also: further rows in the same write.
        sealed: the version that goes with the entries.
    """
    by_post = loaded.assessment.clock_rules.answers.posted
    reference, subject = loaded.case.reference, subject_of(office, loaded, letter, count)
    holder = loaded.so_far.permit.holder if letter == "permit_reminder" else ""

    def out(session: Session, case: Case, made: Sequence[Entry]) -> Sequence[Entry]:
        own_key, news = key or f"{reference}-{letter}", _news(letter)
        put_out(session, case, own_key, subject, sha256, office.now(), by_post=by_post, news=news, holder=holder)
        if also:
            also(session, case, made)
        return made

    if office.ready is not None:  # the letter goes out when the step leaves
        office.ready.out = {
            "key": key or f"{reference}-{letter}",
            "subject": subject,
            "sha256": sha256,
            "by_post": "yes" if by_post else "",
        }
    done = act(office, who, reference, move, entries, loaded.entries, sealed, out, lane=lane)
    deliver_soon(office)
    return done
