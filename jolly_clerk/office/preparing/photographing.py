"""The code of a docket read from a photograph: the camera of the counter, or a telephone. The photograph is not kept."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Final

from jolly_clerk.core.reference import DOCKET_MARK
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import Invalid
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.preparing.counter import Thing, need_counter, thing

#: bytes that a photograph may have
MOST_BYTES: Final = 20_000_000


def thing_photographed(office: Office, who: Who, content: bytes) -> Thing:
    """What lies on the docket in a photograph. Raises NotAllowed, Invalid where no code of a docket can be read, NotFound as
    :func:`jolly_clerk.office.preparing.counter.thing` does."""
    need_counter(who)
    if len(content) > MOST_BYTES:
        raise Invalid(say("A photograph may have 20 MB."), "file")
    with tempfile.TemporaryDirectory() as folder:
        picture = Path(folder) / "photograph"
        picture.write_bytes(content)
        reading = office.readers.read(picture)
    if reading.opens != "yes":
        raise Invalid(say("The photograph could not be opened: take it as a JPEG or a PNG."), "file")
    codes = [page.code for page in reading.pages if page.code]
    docket = next((code for code in codes if code.startswith(f"{DOCKET_MARK} ")), "")
    if not docket:
        said = (
            say("The code in the photograph is none of a docket. Type the number that stands beneath it.")
            if codes
            else say("No code can be read in the photograph. Hold the camera nearer and straight above, or type the number.")
        )
        raise Invalid(said, "file")
    return thing(office, who, docket)
