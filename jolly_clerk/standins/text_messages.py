"""The text message stand-in: each message lies in a folder as JSON."""

from __future__ import annotations

import json
import re
from pathlib import Path


class TextFolder:
    """Sends into a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def send(self, key: str, number: str, text: str) -> Path:
        """Put the message into the folder; twice is harmless, the name is made from its key."""
        self.folder.mkdir(parents=True, exist_ok=True)
        target = self.folder / f"{re.sub(r'[^A-Za-z0-9.-]+', '-', key)}.json"
        target.write_text(json.dumps({"key": key, "to": number, "text": text}, indent=2, ensure_ascii=False), "utf-8")
        return target
