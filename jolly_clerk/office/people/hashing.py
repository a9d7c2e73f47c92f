"""Passwords hashed by Argon2, as many at once as there are cores: each takes 64 MB and a tenth of a second."""

from __future__ import annotations

import os
import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from jolly_clerk.core.say import say
from jolly_clerk.core.searching import compact
from jolly_clerk.office.errors import Invalid
from jolly_clerk.store.database import Busy
from jolly_clerk.store.turns import stand_aside

LEAST_LETTERS, MOST_LETTERS = 10, 200
#: different characters that a password has at least
LEAST_DIFFERENT = 5
#: so many may wait for their turn; who comes then is told to try again, so that hashing never takes all the threads
MOST_WAITING = 12
#: seconds that one waits for a turn
PATIENCE = 15
_TURNS = threading.BoundedSemaphore(os.cpu_count() or 1)
_WAITING = threading.BoundedSemaphore(MOST_WAITING)
#: verified against when there is no such account, so that the answer takes as long
DUMMY = "$argon2id$v=19$m=65536,t=3,p=4$0Lwk7LX2bXQpAPMAE0PICg$rgikBHQBygsltAQ/+5uTqnHVf7DSC5KrjQ48tXukP6Y"


@contextmanager
def _turn() -> Iterator[None]:
    if not _WAITING.acquire(blocking=False):
        raise Busy
    stand_aside()
    try:
        if not _TURNS.acquire(timeout=PATIENCE):
            raise Busy
        try:
            yield
        finally:
            _TURNS.release()
    finally:
        _WAITING.release()


def hashed(password: str, *about: str) -> str:
    """The Argon2 hash of a new password; slow, so never inside a write. ``about`` are the name and the address of its person.

    Raises Invalid if it is too short, too long or too plain, Busy if too many are being hashed.
    """
    from pwdlib import PasswordHash

    need_good(password, *about)
    with _turn():
        return PasswordHash.recommended().hash(password)


def verified(password: str, kept: str) -> bool:
    """True if the password is the one that was hashed; takes as long if there is none (``kept`` empty). Raises Busy."""
    from pwdlib import PasswordHash

    with _turn():
        return PasswordHash.recommended().verify(password[:MOST_LETTERS], kept or DUMMY) and bool(kept)


def need_good(password: str, *about: str) -> None:
    """Raise Invalid if a password is too short, too long, or one that is tried first."""
    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise Invalid(
            say(
                "A password has {least_letters} to {most_letters} characters; a few words in a row are good.",
                least_letters=LEAST_LETTERS,
                most_letters=MOST_LETTERS,
            ),
            "password",
        )
    plain, known = compact(password), [compact(text) for text in about if compact(text)]
    in_a_row = any(
        plain and plain in row for row in ("01234567890" * 20, "abcdefghijklmnopqrstuvwxyz", "qwertyuiopasdfghjklzxcvbnm")
    )
    if len(set(password)) < LEAST_DIFFERENT or not plain or in_a_row or any(plain in (k, k * 2, k[::-1]) for k in known):
        raise Invalid(
            say("This password is guessed at once. A few words in a row are good, not your name or address."), "password"
        )
    if any(len(k) > 3 and len(re.sub(re.escape(k), "", plain)) < LEAST_DIFFERENT for k in known):
        raise Invalid(say("This password is hardly more than your name or address. A few other words are good."), "password")
