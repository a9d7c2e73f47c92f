"""The sheet on which a filing is signed by hand: the code that is printed on it, by which its scan is known again."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence

from jolly_clerk.core.dossier.model import Dossier
from jolly_clerk.core.dossier.signing import covered
from jolly_clerk.core.say import say

#: what the code of every such sheet begins with
MARK = "JC-SIGN"


def code_of(filing: str, dossier: Dossier, text: str) -> str:
    """The code of a sheet: for which filing it is, and a digest of all that is signed with it, its text too."""
    told = json.dumps([covered(dossier), text], sort_keys=True, ensure_ascii=False)
    return f"{_of(filing)}{hashlib.sha256(told.encode()).hexdigest()[:12].upper()}"


def _of(filing: str) -> str:
    """What the codes of all sheets of a filing begin with: few signs, so that the code is large enough for any scanner."""
    return f"{MARK} {hashlib.sha256(filing.encode()).hexdigest()[:10].upper()} "


def fault_of_codes(codes: Sequence[str], filing: str, dossier: Dossier, text: str) -> str:
    """Why a scan is no sheet that was signed for this filing as it stands, from the codes found on it; nothing if it is."""
    ours = [code for code in codes if code.startswith(f"{MARK} ")]
    if not ours:
        return say(
            "No code of a sheet that was printed here was found on it. Scan the whole sheet, straight and in 150 dots an inch or more."
        )
    if not any(code.startswith(_of(filing)) for code in ours):
        return say("This sheet was printed for another filing.")
    if code_of(filing, dossier, text) not in ours:
        return say("Something was changed since this sheet was printed. Print it again and sign it anew.")
    return ""
