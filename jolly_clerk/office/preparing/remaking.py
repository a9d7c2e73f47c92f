"""Files of a draft put into another shape here: several as one PDF, turned, made smaller, cut in two; and put back as they came.

What a file was made from stays with the draft until it is filed. A signed file is never changed: its signature would no longer hold.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from pathlib import Path

from jolly_clerk.core.dossier import remaking
from jolly_clerk.core.dossier.changing import AlreadyThere
from jolly_clerk.core.dossier.model import Attachment, Dossier
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid, NotFound
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.access import need_right
from jolly_clerk.office.preparing.attaching import already_there, filed_before, free_name, keep_files
from jolly_clerk.office.preparing.drafts import Alter, OpenDraft, change_draft, open_draft
from jolly_clerk.reading.binding import Sewn
from jolly_clerk.reading.making import How, Remake

#: types that are pictures, of which a PDF can be made
PICTURES = ("jpeg", "png", "tiff")
#: so many files are put together at most
MOST_TOGETHER = 50


def remake(
    office: Office,
    who: Who,
    draft_id: str,
    how: How,
    files: Sequence[str],
    degrees: int = 90,
    before: int = 2,
    seen: int | None = None,
) -> OpenDraft:
    """Put files of one slot (their ids) into another shape, in their place.

    ``degrees`` turns them clockwise by quarters, ``before`` is the sheet before which one is cut. Raises NotFound, and Invalid with the
    reason for what cannot be changed.
    """
    now = open_draft(office, who, draft_id)
    need_right(now.access, "attach", "documents")
    chosen = _chosen(now, how, files)
    kinds = [_kind_of(now, a, how) for a in chosen]
    count = 2 if how == "apart" else 1
    with tempfile.TemporaryDirectory() as folder:
        to = [str(Path(folder) / f"made-{n}") for n in range(count)]
        papers = [Sewn(title=a.name, path=str(office.vault.path(a.sha256)), kind=k) for a, k in zip(chosen, kinds, strict=True)]
        made = office.readers.remake(Remake(how=how, papers=papers, to=to, degrees=degrees, before=before))
        if made.refused:
            raise Invalid(made.refused, f"documents.{chosen[0].slot}")
        kept = keep_files(office, who, [Path(path).read_bytes() for path in to])
    names = _names(chosen, how, before)

    def put(dossier: Dossier) -> Dossier:
        new = [
            remaking.NewFile(_free(dossier, files, chosen[0].slot, name), *file) for name, file in zip(names, kept, strict=True)
        ]
        return _done(remaking.remade(dossier, now.history.versions, files, new))

    return _changed(office, who, draft_id, put, seen, chosen[0])


def put_back(office: Office, who: Who, draft_id: str, attachment: str, seen: int | None = None) -> OpenDraft:
    """Put the files back of which one was made. Raises NotFound."""
    now = open_draft(office, who, draft_id)
    need_right(now.access, "attach", "documents")
    one = next((a for a in now.dossier.attachments if a.id == attachment), None)
    gone = [source for source in (one.made_from if one else ()) if not office.vault.path(source.checksum).exists()]
    if one is None or gone:
        raise NotFound(say("This file is not kept any more."))
    return _changed(office, who, draft_id, lambda d: _done(remaking.unmade(d, now.history.versions, attachment)), seen, one)


def _changed(office: Office, who: Who, draft_id: str, put: Alter, seen: int | None, about: Attachment) -> OpenDraft:
    try:
        return change_draft(office, who, draft_id, put, seen)
    except AlreadyThere:
        raise already_there(about.name, f"documents.{about.slot}") from None


def _done(dossier: Dossier | None) -> Dossier:
    if dossier is None:
        raise NotFound(say("This file is not in the draft."))
    return dossier


def _chosen(now: OpenDraft, how: How, files: Sequence[str]) -> list[Attachment]:
    """The files in the order in which they were named, all of one slot and none of them filed before."""
    own = {a.id: a for a in now.dossier.attachments}
    if not files or any(id_ not in own for id_ in files):
        raise NotFound(say("This file is not in the draft."))
    chosen = [own[id_] for id_ in dict.fromkeys(files)]
    place = f"documents.{chosen[0].slot}"
    if len({a.slot for a in chosen}) > 1:
        raise Invalid(say("Only files of one slot are put together."), place)
    if len(chosen) > (MOST_TOGETHER if how == "together" else 1):
        raise Invalid(say("One file is changed at a time; at most {most} are put together.", most=MOST_TOGETHER), place)
    if any(a.issuer for a in chosen):
        raise Invalid(say("What was sent straight to the office is not changed."), place)
    if any(a in filed_before(now, a.slot) for a in chosen):
        raise Invalid(say("What was filed is not changed any more; attach another file instead."), place)
    return chosen


def _kind_of(now: OpenDraft, a: Attachment, how: How) -> str:
    """The true type of a file that can be changed; Invalid with the reason if it cannot."""
    place, reading = f"documents.{a.slot}", now.known.readings.get(a.sha256)
    if reading is None or reading.opens == "being read":
        raise Invalid(say("“{name}” is still being read. It can be changed in a moment.", name=a.name), place)
    if reading.signatures:
        raise Invalid(say("“{name}” bears a signature, which a change would break. It stays as it is.", name=a.name), place)
    fits = reading.type == "pdf" or (reading.type in PICTURES and how != "apart")
    if reading.opens != "yes" or not fits:
        raise Invalid(say("“{name}” cannot be changed here: only PDFs and pictures that open can.", name=a.name), place)
    return reading.type


def _names(chosen: Sequence[Attachment], how: How, before: int) -> list[str]:
    """What is made is called as what it was made from."""
    stem, _, ending = chosen[0].name.rpartition(".")
    stem = stem or ending
    if how == "together":
        return [f"{stem}.pdf"]
    if how == "apart":
        first = (
            say("{name}, sheets 1-{last}.pdf", name=stem, last=before - 1)
            if before > 2
            else say("{name}, sheet 1.pdf", name=stem)
        )
        return [first, say("{name}, from sheet {first}.pdf", name=stem, first=before)]
    return [chosen[0].name]


def _free(dossier: Dossier, gone: Sequence[str], slot: str, name: str) -> str:
    left = tuple(a for a in dossier.attachments if a.id not in gone)
    return free_name(dossier.model_copy(update={"attachments": left}), slot, name)
