"""Routes of case packages: taking a case along, and reading one of another office in."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Annotated

from fastapi import Form, Response, UploadFile
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from jolly_clerk.office.keeping.looks import looked
from jolly_clerk.office.keeping.packing import package
from jolly_clerk.office.keeping.reading_in import PackageFound, PackageTaken, look_into, need_reads_in, read_in
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.turns import router_of

router = router_of("/api", "packages")


@router.get("/cases/{reference}/package", response_class=Response)
def take_along(reference: str, office: TheOffice, who: Asker) -> FileResponse:
    """The package of a case for whoever asks: a BagIt folder in a ZIP. The link works signed in only."""
    with ExitStack() as stack:
        packed = stack.enter_context(package(office, who, reference))
        looked(office, who, "copy", reference, packed.name)
        clear = stack.pop_all().close
    headers = {"Cache-Control": "no-store", "Last-Hash": packed.last_hash}
    return FileResponse(
        packed.path, media_type="application/zip", filename=packed.name, headers=headers, background=BackgroundTask(clear)
    )


@router.post("/packages/look")
def look(file: UploadFile, office: TheOffice, who: Asker) -> PackageFound:
    """What a package is and what would become of it; nothing is kept."""
    need_reads_in(who)
    with _kept(file) as path:
        return look_into(office, path)


@router.post("/packages", status_code=201)
def take_in(
    file: UploadFile, office: TheOffice, who: Asker, last_hash: Annotated[str, Form(max_length=100)] = ""
) -> PackageTaken:
    """Read a package in, whole or not at all."""
    with _kept(file) as path:
        return read_in(office, who, path, last_hash)


@contextmanager
def _kept(file: UploadFile) -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="jolly-clerk-sent-") as base:
        path = Path(base) / "package.zip"
        with path.open("wb") as out:
            shutil.copyfileobj(file.file, out)
        yield path
