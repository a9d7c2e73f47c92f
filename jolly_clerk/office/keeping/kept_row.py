"""What stands of a case that is kept as it came from elsewhere: its row for lists, and the one entry of its history."""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime
from typing import Any

from jolly_clerk.core.say import say
from jolly_clerk.core.states import State
from jolly_clerk.store.tables import NO_LIMIT


def kept_entry(changed_at: datetime, told: str) -> dict[str, str]:
    """The one entry of its history: that it is kept, and the hash of all that is told of it (JSON)."""
    return {
        "what": "kept as it came",
        "at": changed_at.astimezone(UTC).isoformat(),
        "who": "office",
        "role": "office",
        "told_hash": hashlib.sha256(told.encode()).hexdigest(),
    }


def kept_row(title: str, state: State, filed_at: datetime, changed_at: datetime) -> dict[str, Any]:
    """The row for lists of a case that is kept as it came."""
    came = say("Kept as it came from elsewhere")
    return {
        "title": title, "state": state, "holder": "closed", "officer_id": None, "edition_sha256": "", "reviewer_id": None,
        "permit_code": None, "filed_at": filed_at, "changed_at": changed_at, "version": 1, "limit_at": None, "limit_day": None,
        "limit_of": "", "their_limit_day": None, "their_limit_of": "", "step": "", "tray": "", "waits": False, "sort_at": NO_LIMIT,
        "place": "closed", "next_officer": came, "outcome": {}, "squares": [], "entries": 1, "next_applicant": came,
    }  # fmt: skip
