"""The post room stand-in: what is delivered lies in a folder: a PDF, the mail (EML) and one slip of paper an item."""

from __future__ import annotations

import json
import re
from dataclasses import asdict
from pathlib import Path

from jolly_clerk.core.ports import Item


class PostFolder:
    """Delivers into a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def deliver(self, item: Item, pdf: bytes | None, mail: bytes = b"") -> Path:
        """Put the item into the folder; twice is harmless, the name is made from its key."""
        name = _name(item.key)
        target = self.folder / f"{name}.pdf"
        if pdf is not None:
            target.write_bytes(pdf)
        if mail:
            (self.folder / f"{name}.eml").write_bytes(mail)
        (self.folder / f"{name}.json").write_text(json.dumps(asdict(item), indent=2, ensure_ascii=False), "utf-8")
        return target

    def items(self) -> list[Item]:
        """Everything that was delivered, oldest first."""
        found = [Item(**json.loads(p.read_text("utf-8"))) for p in self.folder.glob("*.json")]
        return sorted(found, key=lambda item: item.put_at)

    def forget(self, key: str) -> None:
        """Remove what was delivered under a key: it was erased."""
        for ending in ("pdf", "eml", "json"):
            (self.folder / f"{_name(key)}.{ending}").unlink(missing_ok=True)


def _name(key: str) -> str:
    return re.sub(r"[^A-Za-z0-9.-]+", "-", key)
