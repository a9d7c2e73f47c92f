"""Whose a move is, for the sentence that refuses it to others."""

from __future__ import annotations

from jolly_clerk.core.say import say

#: of whose moves a move is, for the sentence that refuses it to others
_WHOSE = {
    "Only the applicant may do this.": ("file", "pay", "send the answers", "take back", "withdraw"),
    "Only a lead may do this.": ("settle a fee", "reopen"),
    "Only a reviewer decides.": ("grant", "refuse", "sign off", "hand back", "ask the applicant", "put on an agenda"),
    "Your role reads and changes nothing.": ("write", "note", "more time"),
}


def whose(move: str) -> str:
    """The sentence for somebody whose role never makes a move."""
    return next((said for said, moves in _WHOSE.items() if move in moves), say("Only an officer of the office may do this."))
