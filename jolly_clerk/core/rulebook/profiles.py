"""What an applicant's account says of the person, and which questions it can fill."""

from __future__ import annotations

from typing import Final, Literal, get_args

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.say import say

ProfileKey = Literal["name", "called", "mail", "address", "telephone", "born", "language", "letters"]
#: the types of the questions that each can fill
FILLS: Final[dict[ProfileKey, tuple[str, ...]]] = {
    **dict.fromkeys(get_args(ProfileKey), ("text", "person", "place")),
    "born": ("date",),
    "language": ("one of",),
    "letters": ("one of",),
}
#: by which somebody is called
NAMES: Final[tuple[ProfileKey, ...]] = ("name", "called")


def fault_of_profile(profile: ProfileKey | None, type_: str, repeats: bool) -> str:
    """Why what an account says cannot fill a question of a type; nothing if it can, or is not to."""
    if profile is None or (not repeats and type_ in FILLS[profile]):
        return ""
    fits = one_of([f"`{name}`" for name in FILLS[profile]])
    return say("this of a profile fills a question of type {fits}, in a part that does not repeat", fits=fits)
