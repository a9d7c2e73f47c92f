"""The seal of a list row: a hash of what its history says, by which a row that was changed by hand shows."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any


def row_hash(row: Mapping[str, Any]) -> str:
    """The seal of a list row: the hash of what a history says of it, as it is read back from any database."""

    def plain(value: object) -> str:
        return value.astimezone(UTC).isoformat() if isinstance(value, datetime) else str(value)

    told = {column: row[column] for column in COLUMNS}
    return hashlib.sha256(json.dumps(told, sort_keys=True, default=plain, ensure_ascii=False).encode()).hexdigest()


#: the columns of a list row that its history says
COLUMNS = (
    "title", "state", "holder", "officer_id", "edition_sha256", "reviewer_id", "permit_code", "filed_at", "changed_at", "version",
    "limit_at", "limit_day", "limit_of", "their_limit_day", "their_limit_of", "step", "tray", "waits", "sort_at", "place",
    "next_officer", "next_applicant", "outcome", "squares", "entries",
)  # fmt: skip
