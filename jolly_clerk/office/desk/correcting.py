"""A plain clerical error in an answer, put right by an officer alone as a new version; the applicant is told by a letter."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.dossier.changing import put_right as with_it_right
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.putting_right import may_be_put_right, more_than_clerical, said_at
from jolly_clerk.core.say import say
from jolly_clerk.office.cases.casework import Loaded, by, check_seen, load_case, permit
from jolly_clerk.office.cases.endings import words_of
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.post.papers import plain_letter
from jolly_clerk.office.post.telling import act_and_tell
from jolly_clerk.store.chain import seal


def put_right(office: Office, who: Who, reference: str, place: str, value: str, reason: str, seen: int | None = None) -> Loaded:
    """Put a clerical error in an answer right. Raises Invalid, at the place, if it is none: if anything else would change by it."""
    reason, value = words_of(reason, say("why it is a clerical error")), value.strip()
    loaded = load_case(office, who, reference)
    check_seen(office, loaded, who, seen)
    permit(loaded, who, "put right")
    before = loaded.assessment
    if why_not := may_be_put_right(before, place):
        raise Invalid(why_not, place[:120])
    dossier = with_it_right(loaded.dossier, place, value)
    after = _assessed(loaded, dossier)
    if why_not := more_than_clerical(before, after, place):
        raise Invalid(why_not, place[:120])
    sealed = seal(Version(no=loaded.history.versions[-1].no + 1, at=office.now(), dossier=dossier))
    label, was, now = loaded.rulebook.label(place), said_at(before, place), said_at(after, place)
    because = say("“{label}” said {was}; it says {now} now ({reason}).", label=label, was=was, now=now, reason=reason)
    sha256 = office.vault.put(plain_letter(office, loaded, "put_right", who, because=because))

    def entries(_: Loaded) -> Sequence[h.Entry]:
        return [
            h.PutRight(
                **by(office, who), place=place, label=label, was=was, now=now, reason=reason, version=sealed.version.no,
                dossier_hash=sealed.hash, letter_sha256=sha256,
            )
        ]  # fmt: skip

    key = f"{reference}-put-right-{sealed.version.no}"
    return act_and_tell(office, who, loaded, "put right", entries, "put_right", sha256, key, sealed=sealed)


def _assessed(loaded: Loaded, dossier: Dossier) -> Assessment:
    """The case as it would be with another dossier."""
    return assess(loaded.rulebook, dossier, loaded.history, loaded.known, loaded.now)
