"""The rows of the route table: which routes there are, for whom, at which stage of the work, and what a success answers."""

from __future__ import annotations

from typing import Any

PUBLIC = {
    ("get", "/health"), ("get", "/api/kinds"), ("get", "/api/session"), ("post", "/api/session/by-click"), ("post", "/api/session/sign-up"),
    ("post", "/api/session/sign-in"), ("post", "/api/session/forgotten"), ("post", "/api/session/new-password"),
    ("post", "/api/kinds/{kind}/way-in"), ("post", "/api/kinds/{kind}/way-in/letter"), ("get", "/api/permits/{code}"), ("post", "/api/terminal/notices"), ("get", "/api/separator.pdf"), ("get", "/api/editions/{sha256}/form"), ("get", "/api/closed-days/{year}"),
    ("get", "/api/invited-by-link/{secret}"), ("post", "/api/invited-by-link/{secret}/code"), ("post", "/api/invited-by-link/{secret}/session"),
    ("get", "/api/deliver/{secret}"), ("post", "/api/deliver/{secret}/opened"), ("post", "/api/deliver/{secret}"),
}  # fmt: skip
EVERYBODY = {
    ("get", "/api/session/contact"), ("put", "/api/session/contact"), ("post", "/api/session/number"), ("post", "/api/session/number/confirmation"),
    ("delete", "/api/session/number"), ("post", "/api/session/code-by-text"),
    ("delete", "/api/session"), ("post", "/api/session/password"), ("get", "/api/session/profile"), ("put", "/api/session/profile"),
    ("get", "/api/session/copy"), ("get", "/api/events"), ("post", "/api/session/code"), ("post", "/api/session/confirmation"), ("delete", "/api/session/others"),
}  # fmt: skip
#: routes over a case that both sides read; the applicant only the own
READ_CASE = {
    ("get", "/api/cases/{reference}/dockets/{docket}"),
    ("get", "/api/cases/{reference}"),
    ("get", "/api/cases/{reference}/papers/{no}"),
    ("get", "/api/cases/{reference}/files/{sha256}"),
    ("get", "/api/cases/{reference}/summary"),
    ("get", "/api/cases/{reference}/payment-slip"),
    ("post", "/api/cases/{reference}/opened"),
    ("get", "/api/issuers"),
}
#: routes over a case that is kept as it came: a reviewer, to whom nothing of it was handed, finds nothing
READ_KEPT = {("get", "/api/kept/{reference}"), ("get", "/api/kept/{reference}/files/{sha256}")}
#: what more than one side may do to a case, and who
SHARED = {
    ("post", "/api/cases/{reference}/messages"): ("applicant", "officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/more-time"): ("applicant", "officer", "lead"),
    ("post", "/api/cases/{reference}/notes"): ("officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/inquiries"): ("officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/inquiries/answered"): ("officer", "lead", "reviewer"),
    ("post", "/api/cases/{reference}/withdrawal"): ("applicant",),
    ("post", "/api/cases/{reference}/grant"): ("reviewer",),
    ("post", "/api/cases/{reference}/refusal"): ("reviewer",),
    ("post", "/api/cases/{reference}/fees/settlement"): ("lead",),
    ("get", "/api/cases/{reference}/looks"): ("lead", "auditor"),
    ("post", "/api/cases/{reference}/talk"): ("officer", "lead", "reviewer"),
    ("get", "/api/cases/{reference}/words"): ("officer", "lead", "reviewer", "auditor"),
    ("get", "/api/cases/{reference}/alike"): ("officer", "lead", "reviewer", "auditor"),
    ("get", "/api/cases/{reference}/bundle"): ("officer", "lead", "reviewer", "auditor"),
    ("get", "/api/cases/{reference}/due.ics"): ("applicant", "officer", "lead", "reviewer", "auditor"),
}
#: erasing: the page and the second person's word are an officer's as well
ERASING = {
    ("get", "/api/print-queue"): ("officer", "lead"), ("get", "/api/print-queue/pdf"): ("officer", "lead"),
    ("post", "/api/print-queue/printed"): ("officer", "lead"),
    ("get", "/api/erasing"): ("officer", "lead"), ("post", "/api/erasing"): ("lead",),
    ("post", "/api/erasing/{erasure}/confirmation"): ("officer", "lead"), ("delete", "/api/erasing/{erasure}"): ("officer", "lead"),
}  # fmt: skip
LEAD = {
    ("get", "/api/closures"), ("post", "/api/closures"), ("post", "/api/closures/foreseen"),
    ("get", "/api/money"), ("post", "/api/money/{money}/placing"), ("post", "/api/money/{money}/return"), ("post", "/api/money/refunds"),
    ("get", "/api/people"), ("post", "/api/people"), ("delete", "/api/people/{person}"), ("put", "/api/people/{person}/kinds"),
}  # fmt: skip
ROLES = ("applicant", "officer", "lead", "reviewer", "auditor", "rule-keeper")
APPLICANT = {
    ("get", "/api/drafts"), ("post", "/api/drafts"), ("get", "/api/my-cases"), ("get", "/api/my-messages"), ("get", "/api/my-cases/more"), ("get", "/api/drafts/{draft}"), ("put", "/api/drafts/{draft}"),
    ("delete", "/api/drafts/{draft}"), ("post", "/api/drafts/{draft}/files"), ("delete", "/api/drafts/{draft}/files/{attachment}"),
    ("get", "/api/drafts/{draft}/files/{attachment}"), ("put", "/api/drafts/{draft}/files/{attachment}"), ("post", "/api/drafts/{draft}/signature"), ("delete", "/api/drafts/{draft}/signature"), ("put", "/api/drafts/{draft}/declarations/{declaration}"),
    ("put", "/api/drafts/{draft}/insisting"), ("post", "/api/drafts/{draft}/files/{attachment}/undo"), ("post", "/api/drafts/{draft}/undo"),
    ("post", "/api/drafts/{draft}/put-back"), ("post", "/api/drafts/{draft}/filing"), ("post", "/api/drafts/{draft}/answers"),
    ("post", "/api/cases/{reference}/answering"), ("post", "/api/cases/{reference}/payments"), ("post", "/api/terminal/{key}"),
    ("get", "/api/drafts/{draft}/registers/{name}/map"), ("get", "/api/drafts/{draft}/registers/{name}/map.geojson"),
    ("get", "/api/drafts/{draft}/registers/{name}/map/point"),
    ("get", "/api/drafts/{draft}/registers/{name}"), ("post", "/api/drafts/{draft}/registers/{name}"),
    ("post", "/api/cases/{reference}/taking-back"), ("post", "/api/uploads"), ("head", "/api/uploads/{upload}"),
    ("patch", "/api/uploads/{upload}"), ("delete", "/api/uploads/{upload}"),
    ("get", "/api/drafts/{draft}/pile"), ("post", "/api/drafts/{draft}/pile"), ("post", "/api/drafts/{draft}/pile/{piece}/cut"),
    ("post", "/api/drafts/{draft}/pile/{piece}/joined"), ("delete", "/api/drafts/{draft}/pile/{piece}"),
    ("get", "/api/drafts/{draft}/pile/{item}/content"), ("post", "/api/drafts/{draft}/taken"),
    ("post", "/api/drafts/{draft}/exchanged"), ("post", "/api/drafts/{draft}/parts/{part}/rows"), ("post", "/api/drafts/{draft}/parts/table"),
    ("get", "/api/drafts/{draft}/parts/{part}/table.{kind}"), ("get", "/api/my-filings"), ("post", "/api/drafts/like/{name}"),
    ("post", "/api/drafts/{draft}/offer"), ("delete", "/api/drafts/{draft}/offer"), ("get", "/api/offered-drafts"),
    ("post", "/api/offered-drafts/{draft}"), ("delete", "/api/offered-drafts/{draft}"),
    ("get", "/api/invitations"), ("post", "/api/invitations"), ("delete", "/api/invitations/{invitation}"), ("get", "/api/invited"),
    ("put", "/api/drafts/{draft}/parts/{part}/writer"), ("get", "/api/drafts/{draft}/parts/{part}/earlier"), ("post", "/api/drafts/{draft}/parts/{part}/earlier"), ("get", "/api/drafts/{draft}/signing-sheet"), ("post", "/api/drafts/{draft}/signing-sheet"),
    ("get", "/api/basket"), ("post", "/api/basket"), ("post", "/api/basket/sum"),
    ("get", "/api/firms"), ("post", "/api/firms"), ("post", "/api/firms/{firm}/acceptance"), ("post", "/api/firms/{firm}/members"),
    ("put", "/api/firms/{firm}/members/{member}"), ("delete", "/api/firms/{firm}/members/{member}"), ("put", "/api/session/acting"),
    ("get", "/api/mandates"), ("post", "/api/mandates"), ("post", "/api/mandates/{mandate}/acceptance"), ("delete", "/api/mandates/{mandate}"),
    ("get", "/api/mandates/{mandate}/papers"), ("get", "/api/mandates/{mandate}/papers/{reference}/{no}"), ("get", "/api/acting-for"), ("get", "/api/acting-in"),
    ("post", "/api/cases/{reference}/additions"), ("post", "/api/drafts/{draft}/addition"),
    ("post", "/api/cases/{reference}/later"), ("post", "/api/issuers"), ("post", "/api/issuers/{request}/again"), ("delete", "/api/issuers/{request}"),
    ("get", "/api/drafts/{draft}/forms/{slot}"), ("post", "/api/drafts/{draft}/dockets"), ("delete", "/api/drafts/{draft}/dockets/{docket}"), ("get", "/api/drafts/{draft}/dockets/{docket}"),
    ("post", "/api/drafts/{draft}/remade"), ("delete", "/api/drafts/{draft}/remade/{attachment}"),
}  # fmt: skip
OFFICER = {
    ("post", "/api/cases/{reference}/checking"), ("post", "/api/cases/{reference}/judgements"), ("post", "/api/cases/{reference}/judgements/rest"), ("post", "/api/cases/{reference}/words"),
    ("get", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/points/closed"),
    ("post", "/api/cases/{reference}/points/asked-again"), ("post", "/api/cases/{reference}/changes"),
    ("post", "/api/cases/{reference}/questions"), ("post", "/api/cases/{reference}/acceptance"),
    ("post", "/api/cases/{reference}/registers"), ("post", "/api/cases/{reference}/requirements"), ("post", "/api/cases/{reference}/put-right"),
    ("post", "/api/cases/{reference}/arrangement"), ("post", "/api/cases/{reference}/undo"), ("post", "/api/cases/{reference}/fees"),
    ("post", "/api/cases/{reference}/letter/came-back"), ("post", "/api/cases/{reference}/letter/again"), ("post", "/api/cases/{reference}/letter/replaced"), ("post", "/api/cases/{reference}/letter/posted"),
    ("post", "/api/cases/{reference}/not-accepted"), ("post", "/api/cases/{reference}/out-of-scope"),
    ("get", "/api/cases/{reference}/step-letter"), ("post", "/api/cases/{reference}/ready/taken-back"), ("post", "/api/cases/{reference}/ready/sent"),
    ("post", "/api/cases/{reference}/hand-over"), ("post", "/api/cases/{reference}/money"), ("post", "/api/cases/{reference}/charge-backs"),
}  # fmt: skip
SEES_ALL = {("get", "/api/tray"), ("get", "/api/tray/more"), ("get", "/api/search")}
ROWS = APPLICANT | OFFICER | SEES_ALL | READ_CASE | LEAD | set(SHARED) | set(ERASING) | READ_KEPT


BODIES: dict[tuple[str, str], dict[str, Any]] = {
    ("post", "/api/print-queue/printed"): {"keys": ["BW-26-00001-B-letter-1"]},
    ("post", "/api/cases/{reference}/ready/taken-back"): {"step": 1},
    ("post", "/api/cases/{reference}/letter/replaced"): {"points": [{"no": 1, "text": "Send it on A3."}]},
    ("post", "/api/cases/{reference}/ready/sent"): {"step": 1},
    ("post", "/api/drafts"): {"kind": "BW"},
    ("put", "/api/drafts/{draft}"): {"note": "x"},
    ("post", "/api/drafts/{draft}/signature"): {"name": "Somebody"},
    ("put", "/api/drafts/{draft}/declarations/{declaration}"): {"ticked": True},
    ("post", "/api/drafts/{draft}/filing"): {"take_gaps": True},
    ("post", "/api/drafts/{draft}/pile/{piece}/cut"): {"before": 3},
    ("post", "/api/drafts/{draft}/taken"): {"places": []},
    ("post", "/api/drafts/{draft}/remade"): {"how": "turned", "files": ["a1"]},
    ("post", "/api/drafts/{draft}/exchanged"): {"first": "a1", "second": "a2"},
    ("post", "/api/drafts/{draft}/offer"): {"mail": "somebody@else.example"},
    ("post", "/api/drafts/{draft}/parts/{part}/rows"): {"rows": [["Name"], ["Odo Fenn"]]},
    ("put", "/api/drafts/{draft}/insisting"): {"reason": ""},
    ("put", "/api/session/profile"): {"address": "1 Pier Road", "telephone": ""},
    ("post", "/api/drafts/{draft}/put-back"): {"place": "works.area"},
    ("post", "/api/terminal/{key}"): {"outcome": "approved"},
    ("post", "/api/cases/{reference}/judgements"): {"requirement": "may-act", "standing": "met"},
    ("post", "/api/cases/{reference}/judgements/rest"): {"requirements": ["signature"]},
    ("post", "/api/cases/{reference}/words"): {"requirement": "documents.site_plan", "text": "Send it on A3."},
    ("post", "/api/cases/{reference}/changes"): {"place": "works.area"},
    ("post", "/api/cases/{reference}/questions"): {"place": "works.area", "text": "Why?"},
    ("post", "/api/drafts/{draft}/registers/{name}"): {"key": "Q-114/2"},
    ("post", "/api/cases/{reference}/taking-back"): {"reason": "To mend it"},
    ("post", "/api/cases/{reference}/registers"): {"name": "plots"},
    ("post", "/api/cases/{reference}/points/closed"): {"no": 1, "reason": "Looked at."},
    ("post", "/api/cases/{reference}/points/asked-again"): {"no": 1},
    ("post", "/api/cases/{reference}/requirements"): {"title": "Bat survey", "text": "Send it."},
    ("post", "/api/cases/{reference}/arrangement"): {"groups": [["documents.site_plan"]]},
    ("post", "/api/cases/{reference}/fees"): {"line": "shoreline", "amount": "100.00", "reason": "A part of it"},
    ("post", "/api/cases/{reference}/fees/settlement"): {"line": "shoreline", "confirmed": True},
    ("post", "/api/cases/{reference}/not-accepted"): {"grounds": "It cannot be."},
    ("post", "/api/cases/{reference}/out-of-scope"): {"grounds": "Another office."},
    ("post", "/api/cases/{reference}/hand-over"): {"to": "silas"},
    ("post", "/api/cases/{reference}/refusal"): {"grounds": "It cannot be."},
    ("post", "/api/cases/{reference}/money"): {"amount": "1.00", "means": "cash", "mark": "C 100"},
    ("post", "/api/cases/{reference}/charge-backs"): {"payment": "cash C 9", "because": "False coins."},
    ("post", "/api/cases/{reference}/inquiries"): {"body": "Harbour Board", "text": "May a boat lie there?"},
    ("post", "/api/cases/{reference}/inquiries/answered"): {"no": 1, "text": "Yes."},
    ("post", "/api/money/{money}/placing"): {"reference": "BW-26-00001-B", "amount": "1.00"},
    ("post", "/api/cases/{reference}/put-right"): {"place": "works.what", "value": "Roof, new", "reason": "Mistyped."},
    ("post", "/api/closures"): {"day": "2026-11-13", "reason": "A storm."},
    ("post", "/api/closures/foreseen"): {"day": "2026-11-13", "begins": "10:00", "ends": "16:00"},
    ("post", "/api/money/refunds"): {"refunds": [1], "accounts": {"1": "QH07 0001 2345"}},
    ("post", "/api/cases/{reference}/notes"): {"text": "x"},
    ("put", "/api/drafts/{draft}/files/{attachment}"): {"description": "The sections"},
    ("post", "/api/drafts/{draft}/dockets"): {"slot": "sections", "what": "The sections, drawn by hand"},
    ("post", "/api/firms"): {"name": "Slip and Sons"},
    ("post", "/api/firms/{firm}/members"): {"mail": "cleo@firm.example", "name": "Cleo Fenn"},
    ("put", "/api/firms/{firm}/members/{member}"): {"keeper": True},
    ("put", "/api/session/acting"): {"firm": ""},
    ("post", "/api/erasing"): {"reference": "BW-26-00001-B", "reason": "Its time is over."},
    ("put", "/api/people/{person}/kinds"): {"kinds": ["BW"]},
    ("post", "/api/people"): {"name": "New One", "mail": "new@office.example", "role": "officer"},
}
#: what a route has to be asked with
QUERIES = {
    "/api/cases/{reference}/step-letter": "?move=accept%20as%20complete",
    "/api/tray/more": "?group=ready&after=2026-11-05T10:00:00Z%20BW",
    "/api/cases/{reference}/words": "?text=plan",
    "/api/cases/{reference}/bundle": "?file=a1",
    "/api/my-filings": "?words=roof",
    "/api/cases/{reference}/additions": "?adds=crew",
    "/api/invitations": "?of={draft}",
    "/api/issuers": "?of={reference}",
    "/api/drafts/{draft}/registers/{name}/map/point": "?x=9&y=9",
    "/api/my-cases/more": "?place=running&after=2026-11-05T10:00:00Z%20BW",
}
#: the stage of the work at which a route can be done; at *filed* all others
STAGES = {
    ("post", "/api/cases/{reference}/payments"): "unpaid",
    ("post", "/api/basket"): "unpaid",
    ("post", "/api/basket/sum"): "unpaid",
    ("get", "/api/cases/{reference}/payment-slip"): "unpaid",
    ("post", "/api/terminal/{key}"): "unpaid",
    ("post", "/api/cases/{reference}/charge-backs"): "money",
    ("post", "/api/offered-drafts/{draft}"): "offered",
    ("delete", "/api/offered-drafts/{draft}"): "offered",
    ("delete", "/api/invitations/{invitation}"): "invited",
    ("post", "/api/mandates/{mandate}/acceptance"): "mandate",
    ("delete", "/api/mandates/{mandate}"): "mandate",
    ("get", "/api/mandates/{mandate}/papers"): "mandate over",
    ("get", "/api/mandates/{mandate}/papers/{reference}/{no}"): "mandate over",
    ("post", "/api/drafts/{draft}/addition"): "adding",
    **dict.fromkeys(
        [
            ("post", "/api/firms/{firm}/acceptance"), ("post", "/api/firms/{firm}/members"), ("put", "/api/firms/{firm}/members/{member}"),
            ("delete", "/api/firms/{firm}/members/{member}"),
        ],
        "firm",
    ),
    ("post", "/api/issuers/{request}/again"): "issuer",
    ("delete", "/api/issuers/{request}"): "issuer",
    ("delete", "/api/drafts/{draft}/remade/{attachment}"): "remade",
    ("post", "/api/money/{money}/placing"): "money",
    ("post", "/api/money/{money}/return"): "money",
    ("post", "/api/money/refunds"): "money",
    ("post", "/api/erasing"): "past",
    ("post", "/api/erasing/{erasure}/confirmation"): "listed",
    ("delete", "/api/erasing/{erasure}"): "listed",
    **dict.fromkeys(
        [
            ("post", "/api/cases/{reference}/judgements"), ("post", "/api/cases/{reference}/judgements/rest"), ("post", "/api/cases/{reference}/requirements"),
            ("post", "/api/cases/{reference}/registers"), ("post", "/api/cases/{reference}/not-accepted"), ("post", "/api/cases/{reference}/put-right"),
        ],
        "checking",
    ),
    **dict.fromkeys(
        [
            ("get", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/letter"), ("post", "/api/cases/{reference}/words"),
            ("post", "/api/cases/{reference}/arrangement"), ("post", "/api/cases/{reference}/undo"),
        ],
        "wanting",
    ),
    ("post", "/api/cases/{reference}/fees/settlement"): "fee set",
    **dict.fromkeys(
        [
            ("post", "/api/cases/{reference}/answering"), ("post", "/api/cases/{reference}/more-time"), ("get", "/api/cases/{reference}/due.ics"),
            ("post", "/api/cases/{reference}/letter/came-back"), ("post", "/api/drafts/{draft}/put-back"),
            ("post", "/api/drafts/{draft}/answers"),
        ],
        "asked",
    ),
    ("post", "/api/cases/{reference}/letter/again"): "returned",
    ("post", "/api/cases/{reference}/letter/replaced"): "asked",
    ("post", "/api/cases/{reference}/letter/posted"): "posted",
    ("post", "/api/cases/{reference}/inquiries"): "checking",
    ("post", "/api/cases/{reference}/inquiries/answered"): "inquired",
    **dict.fromkeys(
        [
            ("post", "/api/cases/{reference}/points/closed"), ("post", "/api/cases/{reference}/points/asked-again"),
            ("post", "/api/cases/{reference}/changes"), ("post", "/api/cases/{reference}/questions"),
        ],
        "answered",
    ),
    ("post", "/api/cases/{reference}/acceptance"): "ready",
    ("get", "/api/cases/{reference}/step-letter"): "ready",
    ("get", "/api/print-queue/pdf"): "posted",
    ("post", "/api/print-queue/printed"): "posted",
    ("post", "/api/cases/{reference}/ready/taken-back"): "leaving",
    ("post", "/api/cases/{reference}/ready/sent"): "leaving",
    ("post", "/api/cases/{reference}/hand-over"): "complete",
    ("post", "/api/cases/{reference}/grant"): "review",
    ("post", "/api/cases/{reference}/refusal"): "review",
}  # fmt: skip
#: what a success answers, where it is not 200
CREATED = {
    "/api/drafts", "/api/drafts/like/{name}", "/api/drafts/{draft}/files", "/api/drafts/{draft}/filing", "/api/drafts/{draft}/answers", "/api/cases/{reference}/answering",
    "/api/firms", "/api/firms/{firm}/members", "/api/uploads", "/api/basket", "/api/cases/{reference}/later", "/api/cases/{reference}/additions", "/api/drafts/{draft}/addition", "/api/cases/{reference}/payments", "/api/cases/{reference}/taking-back", "/api/cases/{reference}/messages", "/api/people",
}  # fmt: skip
EMPTY = {
    ("put", "/api/session/acting"),
    ("post", "/api/cases/{reference}/talk"), ("delete", "/api/offered-drafts/{draft}"), ("delete", "/api/invitations/{invitation}"),
    ("post", "/api/issuers/{request}/again"), ("delete", "/api/issuers/{request}"),
    ("post", "/api/mandates/{mandate}/acceptance"), ("delete", "/api/mandates/{mandate}"),
    ("post", "/api/money/{money}/placing"), ("post", "/api/money/{money}/return"),
    ("patch", "/api/uploads/{upload}"), ("delete", "/api/uploads/{upload}"), ("delete", "/api/drafts/{draft}/pile/{piece}"),
    ("post", "/api/drafts/{draft}/pile/{piece}/cut"), ("post", "/api/drafts/{draft}/pile/{piece}/joined"),
    ("post", "/api/erasing"), ("post", "/api/erasing/{erasure}/confirmation"), ("delete", "/api/erasing/{erasure}"), ("delete", "/api/drafts/{draft}"), ("post", "/api/drafts/{draft}/undo"), ("delete", "/api/people/{person}"), ("put", "/api/people/{person}/kinds"),
}  # fmt: skip
