"""The files of the front end as they are sent: packed once when they are built, and not at every sending."""

from __future__ import annotations

import os
from pathlib import Path

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.staticfiles import PathLike, StaticFiles
from starlette.types import Scope


class Assets(StaticFiles):
    """A folder of files; beside one that packs well lies ``<name>.gz``, which goes to whoever takes it."""

    def file_response(self, full_path: PathLike, stat_result: os.stat_result, scope: Scope, status_code: int = 200) -> Response:
        """Answer with a file, packed if there is a packed one and the browser says that it takes it."""
        packed = Path(f"{os.fspath(full_path)}.gz")
        if "gzip" not in Headers(scope=scope).get("accept-encoding", "") or not packed.is_file():
            return super().file_response(full_path, stat_result, scope, status_code)
        answer = super().file_response(packed, packed.stat(), scope, status_code)
        answer.headers["Content-Encoding"] = "gzip"
        answer.headers.add_vary_header("Accept-Encoding")
        return answer
