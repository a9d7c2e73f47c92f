"""The fenced worker: files, or pages of them, in on standard input, one JSON a line out. Bounded in memory and time."""

from __future__ import annotations

import json
import os
import resource
import sys
from pathlib import Path

MEMORY = 3_000_000_000


def main() -> None:
    """Read files until the input ends."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(int(sys.argv[1]) if len(sys.argv) > 1 else 0)  # whoever waits for a page comes first
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # each thread would take of the bounded memory before it does anything
    from jolly_clerk.reading.read import read_file, warm

    warm()

    answers = sys.stdout
    sys.stdout = sys.stderr
    answers.write("ready\n")
    answers.flush()
    for line in sys.stdin:
        told = json.loads(line)
        try:
            if "page" in told:
                from jolly_clerk.reading.ocr import read_page

                answers.write(read_page(Path(told["path"]), told["type"], told["page"], told["step"]).model_dump_json() + "\n")
            elif "bundle" in told:
                from jolly_clerk.reading.binding import Bundle, bind

                answers.write(bind(Bundle.model_validate(told["bundle"])).model_dump_json() + "\n")
            elif "remake" in told:
                from jolly_clerk.reading.making import Remake, remake

                answers.write(remake(Remake.model_validate(told["remake"])).model_dump_json() + "\n")
            elif "table" in told:
                from jolly_clerk.reading.spreadsheet import read_cells

                answers.write(read_cells(Path(told["table"])).model_dump_json() + "\n")
            else:
                answers.write(read_file(Path(told["path"])).model_dump_json() + "\n")
        except Exception as error:
            answers.write(json.dumps({"trouble": f"{type(error).__name__}: {error}"[:200]}) + "\n")
        answers.flush()


if __name__ == "__main__":
    main()
