"""Finding a kind of application by what somebody needs, in plain words and with typing errors.

Compared are the words of the title, of *about*, of ``asked_as`` and of the choices of the way in; a word counts the more, the fewer
kinds have it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from rapidfuzz.distance import OSA, JaroWinkler

from jolly_clerk.core.rulebook.compiled import Rulebook
from jolly_clerk.core.searching import words_in

#: words of a need that tell nothing of it
SMALL = frozenset((
    "a", "an", "and", "any", "at", "be", "can", "do", "does", "for", "from", "get", "have", "how", "i", "in", "is", "it",
    "like", "me", "my", "need", "new", "no", "not", "of", "on", "or", "our", "out", "some", "somebody", "something", "that",
    "the", "them", "there", "to", "want", "we", "what", "where", "which", "with", "would", "you", "your", "permit", "licence",
    "license", "permission", "apply", "application",
))  # fmt: skip
#: from this likeness (0 to 1) on a word is taken for another that was mistyped
ALIKE = 0.88


@dataclass(frozen=True, slots=True)
class Need:
    """How well a kind fits a need: ``score`` from 0 (not at all), and the ``words`` of it that were found."""

    rulebook: Rulebook
    score: float
    words: tuple[str, ...]


def begun_by_itself(rulebooks: Iterable[Rulebook]) -> list[Rulebook]:
    """The editions under which somebody begins a filing; what is filed on a permit is begun there."""
    return [rules for rules in rulebooks if rules.step is None]


def find_by_need(said: str, rulebooks: Sequence[Rulebook]) -> list[Need]:
    """The kinds that fit a need, the best first; all that fit hardly worse than the best. Nothing for words that tell nothing.

    What is filed on a permit is begun there, and is no kind to look for.
    """
    wanted = [w for w in dict.fromkeys(words_in(said)) if w not in SMALL and len(w) > 1]
    vocabularies = [(r, _vocabulary(r)) for r in begun_by_itself(rulebooks)]
    spread = Counter(word for _, words in vocabularies for word in words)
    found = [_fit(r, words, wanted, spread) for r, words in vocabularies]
    found.sort(key=lambda need: -need.score)
    best = found[0].score if found else 0.0
    return [need for need in found if need.score > 0 and need.score >= best / 2]


def _fit(rulebook: Rulebook, words: dict[str, float], wanted: Sequence[str], spread: Counter[str]) -> Need:
    score, told = 0.0, []
    for need in wanted:
        word, alike = max(((w, _alike(need, w)) for w in words), key=lambda pair: (pair[1], words[pair[0]]), default=("", 0.0))
        if alike:
            score += alike * words[word] / spread[word]
            told.append(word)
    return Need(rulebook, score, tuple(dict.fromkeys(told)))


def _alike(one: str, other: str) -> float:
    """How alike two words are, 0 to 1; 0 below :data:`ALIKE`."""
    if one == other:
        return 1.0
    short, long = sorted((one, other), key=len)
    if len(short) >= 4 and long.startswith(short):
        return 0.95  # build, building
    if len(short) < 4:
        return 0.0
    if OSA.distance(one, other, score_cutoff=1) == 1:
        return 0.9
    found = JaroWinkler.similarity(one, other)
    return found if found >= ALIKE + 0.04 else 0.0


def _vocabulary(rulebook: Rulebook) -> dict[str, float]:
    """The words of a kind, each with its weight."""
    words: dict[str, float] = {}
    for text, weight in _texts(rulebook):
        for word in words_in(text):
            if word not in SMALL and len(word) > 1:
                words[word] = max(weight, words.get(word, 0.0))
    return words


def _texts(rulebook: Rulebook) -> Iterator[tuple[str, float]]:
    edition = rulebook.edition
    yield from ((text, 3.0) for text in (edition.title, *edition.asked_as))
    yield edition.about, 2.0
    first = edition.parts[0]
    lists = {q.options for q in first.questions if q.options}
    for name in lists:
        yield from ((option.title, 1.5) for option in edition.lists.get(name, ()))
    yield from ((question.ask, 0.5) for question in first.questions)
