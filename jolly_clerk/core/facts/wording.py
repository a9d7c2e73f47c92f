"""Where words stand in the text of a file, as somebody looks for them."""

from __future__ import annotations

import re
from collections.abc import Iterator

from jolly_clerk.core.facts.measures import part_of
from jolly_clerk.core.facts.reading import Reading, TextLine
from jolly_clerk.core.searching import folded, words_in

_WORD = re.compile(r"[^\W_]+")


def places_of(text: str, reading: Reading) -> Iterator[TextLine]:
    """Each place of the words in a reading, with the line as its text and a box around the words alone.

    Case and accents do not count; the words stand next to each other on one line, the last may be the beginning of one.

    >>> from jolly_clerk.core.facts.reading import Reading, TextLine
    >>> line = TextLine(page=2, text="Health cover of the São Brás Choir", box=(0.1, 0.2, 0.8, 0.22))
    >>> reading = Reading(sha256="0" * 64, reader="5", size=1, type="pdf", opens="yes", lines=(line,))
    >>> [(place.page, place.text) for place in places_of("sao bras ch", reading)]
    [(2, 'Health cover of the São Brás Choir')]
    """
    wanted = words_in(text)
    if not wanted:
        return
    for line in reading.lines:
        words = [(folded(found[0]), found.span()) for found in _WORD.finditer(line.text)]
        for n in range(len(words) - len(wanted) + 1):
            here = [word for word, _ in words[n : n + len(wanted)]]
            if here[:-1] == wanted[:-1] and here[-1].startswith(wanted[-1]):
                span = (words[n][1][0], words[n + len(wanted) - 1][1][1])
                yield TextLine(page=line.page, text=line.text, box=part_of(line, span))
