"""Names compared as a clerk would: order, initials, capitals, marks and the spelling of passports do not make another person.

Source: ICAO Doc 9303 part 3, section 6, for the letters that passports spell otherwise (Ü as UE, Cyrillic and Greek in Latin letters).
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from rapidfuzz.distance import DamerauLevenshtein

from jolly_clerk.core.say import _, say

#: letters that do not come apart into a letter and a mark
_LETTERS = {"ß": "ss", "æ": "ae", "ø": "o", "ł": "l", "đ": "d", "þ": "th", "ð": "d", "œ": "oe", "ĳ": "ij", "ı": "i", "ħ": "h"}
#: letters that passports spell with two
_PASSPORT = {"ä": "ae", "ö": "oe", "ü": "ue", "å": "aa", "ø": "oe"}
_IN_LATIN = (
    "абвгґдеёєжзиіїйклмнопрстуфхцчшщъыьэюяђјљњћџўѓќ αβγδεζηθικλμνξοπρσςτυφχψω",
    "a b v g g d e e ie zh z i i i i k l m n o p r s t u f kh ts ch sh shch ie y * e iu ia d j lj nj c dz u g k "
    "a v g d e z i th i k l m n x o p r s s t y f ch ps o",
)
_OTHER_SCRIPTS = dict(zip(_IN_LATIN[0].replace(" ", ""), _IN_LATIN[1].replace("*", "-").split(), strict=True)) | {"ь": ""}
_TITLES = {"mr", "mrs", "ms", "miss", "dr", "prof", "sir", "dame", "and"}
_SHORT = {"limited": "ltd", "company": "co", "incorporated": "inc", "corporation": "corp", "brothers": "bros"}
_BORN = re.compile(r"[\s,(]+(?:née|né|nee|born|geb\.?|geborene[r]?|formerly|maiden name)\s*[:.]?\s+", re.IGNORECASE)
#: words behind a name that tell parent and child apart
_GENERATIONS = {"jr", "sr", "junior", "senior", "ii", "iii", "iv", "filho", "neto"}
#: the legal form of a firm, which is often left out
_LEGAL = {"ltd", "inc", "corp", "co", "llc", "plc", "gmbh", "ag", "sa", "sarl", "lda"}
#: so many letters a word has at least before one that differs is taken for a slip of the pen
_LONG_ENOUGH = 5

Verdict = Literal["same", "look", "other"]


@dataclass(frozen=True, slots=True)
class Compared:
    """What a clerk would say of two names, and why: *same*, *look* (somebody has to), or *other*."""

    verdict: Verdict
    message: str
    values: tuple[tuple[str, str], ...] = ()

    @property
    def why(self) -> str:
        """The reason in words."""
        return say(self.message, **dict(self.values))


def words(name: str) -> list[str]:
    """The words of a name without marks, capitals and titles; a hyphen parts two words, an apostrophe does not."""
    return list(_short(name)) if len(name) <= SHORT else _words(name, _LETTERS)


#: what is asked for again and again is looked at once: names, titles of slots; not whole texts
SHORT = 200


@lru_cache(maxsize=8192)
def _short(name: str) -> tuple[str, ...]:
    return tuple(_words(name, _LETTERS))


def _words(name: str, letters: dict[str, str]) -> list[str]:
    folded = unicodedata.normalize("NFC", name.casefold())
    said = "".join(letters.get(c, _LETTERS.get(c, _OTHER_SCRIPTS.get(c, c))) for c in folded)
    plain = "".join(c for c in unicodedata.normalize("NFKD", said) if not unicodedata.combining(c))
    plain = "".join(_OTHER_SCRIPTS.get(c, c) for c in plain)
    found = re.findall(r"[^\W_]+", re.sub(r"(?<=\w)['’ʼ`](?=\w)", "", plain))
    return [_SHORT.get(word, word) for word in found if word not in _TITLES]


def spellings(name: str) -> list[list[str]]:
    """The words of a name without marks, and as a passport spells them."""
    plain, passport = words(name), _words(name, _PASSPORT)
    return [plain] if plain == passport else [plain, passport]


def same_name(one: str, other: str) -> bool:
    """True if a clerk would take both for the same person or firm, without a second look."""
    return compared(one, other).verdict == "same"


@lru_cache(maxsize=4096)
def compared(one: str, other: str, cut: bool = False) -> Compared:
    """Compare two names: *same*, *look* (a person has to, and why), or *other*.

    A maiden name, a part of a family name or a first name that is missing on one side, *Jr.* on one side, another family name behind
    the same first name, or one letter that differs want a *look*. ``cut``: the first may end before its end, as lines of passports do.
    """
    (first, maiden), (second, second_maiden) = _parted(one), _parted(other)
    if maiden and second_maiden and not _any_match(f"x {maiden}", f"x {second_maiden}") and _any_match(first, second):
        return Compared("look", _("The names at birth differ: {one}, {other}."), (("one", maiden), ("other", second_maiden)))
    ages = [{w for w in words(name) if w in _GENERATIONS} for name in (first, second)]
    if ages[0] != ages[1] and _any_match(_without(first, _GENERATIONS), _without(second, _GENERATIONS)):
        which = sorted(ages[0] ^ ages[1])[0]
        return Compared("look", _("“{which}” stands on one side only; it may be parent and child."), (("which", which),))
    if _any_match(first, second):
        return _agreeing(first, second)
    if (maiden or second_maiden) and _any_match(f"{first} {maiden}", f"{second} {second_maiden}"):
        return Compared("look", _("One of them is a maiden name."))
    if _match(_without_passport(first), _without_passport(second)):
        return Compared("look", _("They differ only as names do that are spelt without their marks."))
    own, others = words(_in_order(first)), words(_in_order(second))
    if cut and (whole := _cut(own, others)):
        return Compared("look", _("The name may be cut after {end}."), (("end", whole),))
    slip = _slip(own, others)
    if slip:
        return Compared("look", _("One letter differs: {one}, {other}."), (("one", slip[0]), ("other", slip[1])))
    if len(own) > 1 and len(others) > 1 and _begins(own[0], others[0]):
        return Compared("look", _("The first name is the same and the family name is not; it may have changed."))
    return Compared("other", _("They do not share their words."))


def _agreeing(one: str, other: str) -> Compared:
    """Two names of which each word of the shorter stands in the longer: what is missing decides."""
    own, others = ([w for w in words(_in_order(name)) if w not in _LEGAL] for name in (one, other))
    own, others = _joined(own, others), _joined(others, own)
    if sorted(own) == sorted(others):
        if own == others:
            return Compared("same", _("They have the same words."))
        return Compared("same", _("They have the same words in another order."))
    if len(own) == len(others):
        if any(len(w) == 1 for w in (*own, *others)):
            return Compared("same", _("An initial stands for a name that begins with it."))
        return Compared("same", _("They are the same as passports spell them."))
    longer, shorter, whole = (own, others, one) if len(own) > len(others) else (others, own, other)
    missing = _missing(longer, shorter)
    family = words(whole.partition(",")[0]) if "," in whole else [w for w in longer if w in _hyphened(whole)] or longer[-1:]
    if any(word in family for word in missing):
        return Compared("look", _("A part of the family name is missing on one side: {part}."), (("part", " ".join(missing)),))
    if longer[0] in missing:
        return Compared("look", _("The first of the given names is missing on one side: {part}."), (("part", longer[0]),))
    if not missing:
        return Compared("same", _("They are the same as passports spell them."))
    return Compared("same", _("A middle name is missing on one side: {part}."), (("part", " ".join(missing)),))


def _without(name: str, leaving_out: set[str]) -> str:
    return " ".join(piece for piece in re.split(r"([\s,]+)", name) if not set(words(piece)) & leaving_out)


def _missing(longer: list[str], shorter: list[str]) -> list[str]:
    """The words of the longer name for which the shorter has neither the word nor its initial."""
    left, found = list(shorter), []
    for word in longer:
        match = next((w for w in left if w == word), None) or next(
            (w for w in left if (len(w) == 1 and word.startswith(w)) or (len(word) == 1 and w.startswith(word))), None
        )
        if match is None:
            found.append(word)
        else:
            left.remove(match)
    return found


def _hyphened(name: str) -> set[str]:
    """The words of a double family name: those that a hyphen joins at the end."""
    last = name.split()[-1] if name.split() else ""
    return set(words(last)) if "-" in last else set()


def _cut(own: list[str], others: list[str]) -> str:
    """The last word of a name that may be cut, if everything before agrees and it begins a word of the other; else nothing."""
    for at in range(len(own) - 1, -1, -1):
        rest = [w for w in others if w not in own]
        others_have = [w for w in own[:at] + own[at + 1 :] if w in others]
        if own[at] not in others and len(others_have) == len(own) - 1 and any(w.startswith(own[at]) for w in rest):
            return own[at].upper()
    if own and all(w in others for w in own) and len(own) < len(others):
        return own[-1].upper()
    return ""


def _parted(name: str) -> tuple[str, str]:
    """A name, and the maiden name that is told behind it."""
    found = _BORN.split(f" {name}", maxsplit=1)
    return found[0], found[1].strip(" )") if len(found) > 1 else ""


def _in_order(name: str) -> str:
    """``Renn, Odalys`` with the first name first."""
    family, comma, given = name.partition(",")
    return f"{given} {family}" if comma and given.strip() else name


def _any_match(one: str, other: str) -> bool:
    return any(_match(a, b) for a in spellings(one) for b in spellings(other))


def _without_passport(name: str) -> list[str]:
    """The words with the two letters of a passport taken back to one: *Mueller* as *muller*."""
    return [re.sub(r"([aou])e|a(a)", r"\1\2", word) for word in words(name)]


def _match(one: list[str], other: list[str]) -> bool:
    if not one or not other:
        return False
    one, other = _joined(one, other), _joined(other, one)
    short, long = sorted((one, other), key=len)
    left, whole = list(long), 0
    for word in sorted(short, key=len, reverse=True):
        match = next((w for w in left if w == word), None)
        if match is None:
            match = next((w for w in left if len(word) == 1 and w.startswith(word)), None)
            match = match or next((w for w in left if len(w) == 1 and word.startswith(w)), None)
        else:
            whole += len(match) > 1
        if match is None:
            return False
        left.remove(match)
    return whole > 0


def _joined(own: list[str], others: list[str]) -> list[str]:
    """The words, with those put together that the other name writes as one: *de la Cruz* as *delacruz*."""
    found, at = [], 0
    while at < len(own):
        size = next((n for n in range(min(4, len(own) - at), 1, -1) if "".join(own[at : at + n]) in others), 1)
        found.append("".join(own[at : at + size]))
        at += size
    return found


def _begins(one: str, other: str) -> bool:
    return one == other and len(one) > 1


def _slip(own: list[str], others: list[str]) -> tuple[str, str] | None:
    """The only two words that differ, if it is by one letter."""
    left, right = [w for w in own if w not in others], [w for w in others if w not in own]
    if len(left) != 1 or len(right) != 1 or min(len(left[0]), len(right[0])) < _LONG_ENOUGH:
        return None
    return (left[0], right[0]) if DamerauLevenshtein.distance(left[0], right[0]) == 1 else None
