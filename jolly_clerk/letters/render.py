"""Letters and receipts: plain values into a template, out comes a tagged PDF.

The template engine is loaded late; texts travel as data and are never read as markup.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent


def render(template: str, values: dict[str, Any]) -> bytes:
    """The PDF of ``letter`` or ``receipt`` with these values (see the head of each template for their names)."""
    import typst

    return typst.compile(
        str(HERE / f"{template}.typ"),
        root=str(HERE),
        font_paths=[str(HERE / "fonts")],
        ignore_system_fonts=True,
        sys_inputs={"values": json.dumps(values, default=str)},
        format="pdf",
    )
