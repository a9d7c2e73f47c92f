"""A file that a browser keeps and does not show."""

from __future__ import annotations

from fastapi import Response


def attached(content: bytes, media: str, name: str) -> Response:
    """A file to be kept under a name; no browser keeps another copy."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(content, media_type=media, headers=headers)
