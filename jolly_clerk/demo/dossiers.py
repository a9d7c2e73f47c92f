"""Whole dossiers of the other kinds: the answers of a filing with nothing left, and the papers that go with them."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from jolly_clerk.core.values import Raw
from jolly_clerk.demo import papers
from jolly_clerk.demo.stage import Files

Dossier = tuple[dict[str, Any], Files]


def _on(day: date, **ahead: int) -> str:
    return (day + timedelta(**ahead)).isoformat()


def stall(day: date, name: str, pitches: tuple[str, ...], goods: str = "crafts", sort: str = "new", **more: Raw) -> Dossier:
    """A pavement stall licence. ``more``: ``charity`` (its number), ``number`` and ``held`` of a licence held or renewed, ``begins``."""
    near = pitches[0] in ("ferry_steps", "upper_green")
    answers: dict[str, Any] = {
        "trade": {"island": "near_skerry" if near else "quill", "ground": "street", "goods": goods},
        "holder": {"name": name, "charity": "charity" in more, "language": more.get("language", "en"), "post": "mail"},
        "licence": {"sort": sort, "begins": more.get("begins", _on(day, days=9)), "held": more.get("held", 0)},
        "stalls": [{"id": n, "pitch": p, "frontage": "3.0", "power": n == 2} for n, p in enumerate(pitches, 1)],
        "care": {"from_hour": "8:00", "to_hour": "18:00", "bins": True},
    }
    files: Files = [
        ("identity", "identity.jpg", papers.scanned(papers.paper("Identity", name, letterhead="Quillhaven"), 5)),
        (
            "insurance",
            "cover.pdf",
            papers.paper(
                "Certificate of cover", f"Insured: {name}", f"In force until: {_on(day, days=400)}", letterhead="Harbour Mutual"
            ),
        ),
    ]
    if goods == "hot":
        answers["trade"]["gas"] = False
    if goods in ("hot", "cold"):
        files.append(
            ("food", "food.pdf", papers.paper("Food inspector", f"{name} may sell {goods} food.", letterhead="Food inspector"))
        )
    if "charity" in more:
        answers["holder"]["charity_number"] = more["charity"]
        files.append(("charity", "charity.pdf", papers.paper("Roll of charities", f"{more['charity']} {name}")))
    if "number" in more:
        answers["licence"]["number"] = more["number"]
    if sort != "renewal":
        files += [
            (
                f"sketch.{n}",
                f"sketch-{n}.pdf",
                papers.paper("Sketch of the stall", f"{p.replace('_', ' ').title()}", "Frontage 3.0 m"),
            )
            for n, p in enumerate(pitches, 1)
        ]
    if sort == "short":
        answers["licence"]["days"] = more.get("days", 14)
    return answers, files


def surveyor(day: date, name: str, sort: str = "first", qualifications: int = 2, points: int = 240, **more: Raw) -> Dossier:
    """A land surveyor's registration. ``more``: ``licensed`` (the body), ``other_name``, ``number`` of a registration, ``fast``."""
    born, expires = date(1990, 2, 11), day + timedelta(days=more.get("passport_days", 900))
    answers: dict[str, Any] = {
        "need": {"measures": "others", "sort": sort, "fields": ["bounds", "works"] if qualifications > 2 else ["bounds"]},
        "person": {
            "name": name, "other_name": "other_name" in more, "born": born.isoformat(), "nationality": "Merrow", "address": "3 Lamp Lane",
            "language": "en", "post": more.get("post", "mail"),
        },
        "travel": {"number": "M7654321", "expires": expires.isoformat()},
        "record": {"licensed": "licensed" in more, "struck_off": False},
        "cover": {"policies": [{"insurer": "Harbour Mutual", "first": _on(day, days=-90), "last": _on(day, days=900), "amount": "300000.00"}]},
        "service": {"speed": "fast", "reason": "post"} if more.get("fast") else {"speed": "normal"},
    }  # fmt: skip
    files: Files = [
        ("passport", "passport.pdf", papers.passport(name, "M7654321", born, expires)),
        ("portrait", "portrait.jpg", papers.portrait(sum(map(ord, name)))),
        (
            "cover",
            "cover.pdf",
            papers.paper(
                "Certificate of cover",
                f"Insured: {name}",
                "Sum insured: 300 000.00",
                f"In force until {day + timedelta(days=900):%-d %B %Y}",
                letterhead="Harbour Mutual",
            ),
        ),
    ]
    if "other_name" in more:
        answers["person"]["former_name"] = more["other_name"]
        files.append(
            ("name_change", "marriage.pdf", papers.paper("Certificate of marriage", f"{more['other_name']} is now {name}."))
        )
    if "licensed" in more:
        answers["record"]["body"] = more["licensed"]
    if sort in ("restoration", "field"):
        answers["registered"] = {"number": more["number"]}
    if sort == "restoration":
        answers["registered"] |= {"ended": _on(day, days=-500), "why": "I worked on the mainland and let it end."}
    if sort == "carried":
        answers["need"]["report"] = "R-2214"
        files.append(
            ("report", "report.pdf", papers.paper("Report R-2214", f"On {name}.", letterhead="Surveyors of Merrow", pages=4))
        )
    else:
        answers["degree"] = {
            "title": "Master of Surveying",
            "school": "Tide School",
            "awarded": "2016-07-06",
            "points": points,
            "taught": "en",
        }
        degree = papers.paper(
            "Master of Surveying",
            f"Awarded to: {more.get('degree_name', name)}",
            "Awarded on: 6 July 2016",
            letterhead="Tide School",
        )
        files += [
            ("degree", "degree.pdf", degree),
            (
                "credit_list",
                "points.pdf",
                papers.paper("List of credit points", name, f"Points in surveying: {points}", letterhead="Tide School"),
            ),
        ]
        if points < 180:
            rows = [{"employer": "Sark and Daughters", "first": "2018-01-01", "last": "2019-12-31"}]
            answers["degree"]["practice"] = [*rows, {"employer": "Shore Office", "first": "2020-01-01", "last": "2021-06-30"}]
            files.append(
                ("practice", "practice.pdf", papers.paper("Letters of practice", name, "1 January 2018 to 30 June 2021"))
            )
    if sort in ("first", "restoration"):
        answers["qualifications"] = [
            {"id": n, "title": f"Course in levelling {n}", "body": "Tide School", "given": "2019-05-01"}
            for n in range(1, qualifications + 1)
        ]
        files += [
            (f"qualification.{n}", f"course-{n}.pdf", papers.paper(f"Course in levelling {n}", name, letterhead="Tide School"))
            for n in range(1, qualifications + 1)
        ]
    return answers, files


def tour(day: date, promoter: str, title: str, people: tuple[tuple[str, int], ...], ahead: int = 100, **more: Raw) -> Dossier:
    """A touring performers' visa for ``people`` (name, age).

    ``more``: ``roll`` of the promoter, ``fast``, ``fire``, ``days``, ``broken`` lines, ``small`` portraits, and contracts that are
    ``foreign`` or ``translated`` (numbers of persons).
    """
    first = day + timedelta(days=ahead)
    last = first + timedelta(days=more.get("days", 20))
    expires = first + timedelta(days=900)
    persons, files = [], list[tuple[str, str, bytes]]()
    for n, (name, age) in enumerate(people, 1):
        born, number = date(first.year - age, 1, 15), f"M76543{20 + n}"
        broken = n in more.get("broken", ())
        item: dict[str, Any] = {
            "id": n, "name": name, "role": "player", "born": born.isoformat(), "nationality": "Merrow", "passport": number,
            "valid_until": expires.isoformat(), "pages": 6, "arrival": first.isoformat(), "departure": last.isoformat(),
            "lines": "\n".join(papers.passport_lines(name, number, born, expires, broken)),
        }  # fmt: skip
        contract = papers.contract(
            title, name, n in (*more.get("foreign", ()), *more.get("translated", ())), n in more.get("translated", ())
        )
        small = (350, 450) if n in more.get("small", ()) else ()
        files += [
            (f"passport.{n}", f"passport-{n}.pdf", papers.passport(name, number, born, expires, broken)),
            (f"portrait.{n}", f"portrait-{n}.jpg", papers.portrait(sum(map(ord, name)), *small)),
            (f"contract.{n}", f"contract-{n}.pdf", contract),
        ]
        if age < 18:
            item["guardian"] = "Ada Marrow"
            files.append(
                (f"consent.{n}", f"consent-{n}.pdf", papers.paper("Consent", f"I let {name} travel. (signed) Ada Marrow"))
            )
            files.append(
                (
                    f"child_form.{n}",
                    f"child-{n}.pdf",
                    papers.paper("Form of the children's officer", f"{name} learns each morning."),
                )
            )
        persons.append(item)
    firm = "roll" in more
    answers: dict[str, Any] = {
        "need": {"home": "elsewhere", "paid_by": "tour", "days": (last - first).days + 1},
        "promoter": {"name": promoter, "acts": "firm" if firm else "self", "address": "12 Skerry Terrace", "language": "en", "post": "mail"},
        "tour": {
            "title": title, "art": more.get("art", "stage"), "fire": "fire" in more, "animals": False, "goods": "4200.00",
            "stops": [{"venue": "Old Hall", "first": _on(first, days=1), "last": _on(first, days=3)}],
        },
        "persons": persons,
        "keep": {"lodging": "Harbour Inn", "ill": "Dr Sark", "ticket": True},
        "service": {"speed": "fast" if more.get("fast") else "normal"},
    }  # fmt: skip
    if firm:
        answers["promoter"]["number"] = more["roll"]
    if "fire" in more:
        files.append(
            ("fire_plan", "fire.pdf", papers.paper("Fire plan", "Two torches, minded by one hand each, sand beside the stage."))
        )
    files += [
        (
            "venue_letters",
            "venues.pdf",
            papers.paper(
                "Old Hall",
                f"Dated {day - timedelta(days=9):%-d %B %Y}",
                f"{title} plays here for three days.",
                letterhead="Old Hall",
            ),
        ),
        (
            "health_cover",
            "health.pdf",
            papers.paper(
                "Health cover",
                f"{len(people)} persons, every day of the tour.",
                f"In force until {last:%-d %B %Y}",
                letterhead="Harbour Mutual",
            ),
        ),
    ]
    return answers, files


def patent(name: str, title: str, dependent: int = 8, independent: int = 1, **more: Raw) -> Dossier:
    """An invention patent.

    ``more``: ``size``, ``multiple``, ``skip`` (a claim number left out), ``stated`` claims, ``pages``, ``figures``, ``exam``, ``agent``.
    """
    counted, pages, drawn = dependent + independent, more.get("pages", 12), more.get("figures", 0)
    shown = (
        [f"Figures 1 to {drawn} show it from all sides."] if drawn > 1 else ["Figure 1 shows it from the side."] if drawn else []
    )
    answers: dict[str, Any] = {
        "need": {"sort": "device", "shown": False},
        "applicant": {
            "name": name, "person": "person", "size": more.get("size", "ordinary"), "address": "4 Saltern Slip", "agent": "agent" in more,
            "language": "en", "post": "mail",
        },
        "inventors": [{"id": 1, "name": name, "address": "4 Saltern Slip", "applies": True}],
        "invention": {
            "title": title, "field": "boats", "figures": "figures" in more, "specimens": False,
            "summary": f"{title}: a tooth that is longer than the gap.",
        },
        "count": {
            "claims": more.get("stated", counted), "independent": independent, "multiple": 1 if more.get("multiple") else 0,
            "description": pages, "claim_pages": 1, "abstract": 1,
        },
        "priority": {"claimed": False},
        "service": {"way": "electronic", "exam": more.get("exam", "later")},
    }  # fmt: skip
    files: Files = [
        (
            "description",
            "description.pdf",
            papers.paper("Description", f"{title}.", "What was known: a pawl with a spring.", *shown, pages=pages),
        ),
        ("claims", "claims.pdf", papers.claims(dependent, independent, more.get("multiple", False), more.get("skip", 0))),
        (
            "abstract",
            "abstract.pdf",
            papers.paper("Abstract", *([f"{title}. A tooth that is longer than the gap behind it."] * more.get("abstract", 3))),
        ),
    ]
    if "figures" in more:
        answers["count"]["drawings"] = more["figures"]
        sheets = [(f"Figure {no}", ("A winch.",)) for no in range(1, drawn + 1)]
        files.append(("drawings", "drawings.pdf", papers.sheets(*sheets)))
    if more.get("size", "ordinary") != "ordinary":
        files.append(("size", "size.pdf", papers.paper("Statement", f"I, {name}, work alone and filed fewer than five before.")))
    if "agent" in more:
        answers["applicant"]["agent_name"] = more["agent"]
        files.append(("power", "power.jpg", papers.scanned(papers.paper("Power", f"{name} empowers {more['agent']}."), 9)))
    return answers, files


def product(name: str, substance: str) -> Dossier:
    """The product file of a trial."""
    answers = {
        "need": {"on_sale": False},
        "holder": {"name": name, "address": "4 Saltern Slip", "language": "en", "post": "mail"},
        "product": {"substance": substance, "form": "tablet", "maker": "Tidewater Works", "batches": 4, "keeps": 24},
    }
    files: Files = [
        ("making", "making.pdf", papers.paper("How it is made", f"{substance} is pressed in three steps.", pages=6)),
        ("batch_papers", "batches.pdf", papers.paper("Batches", "Four batches, all within the bounds.", pages=4)),
        ("known", "known.pdf", papers.paper("What is known", f"{substance} was given to 40 persons without harm.", pages=3)),
    ]
    return answers, files


def trial(
    day: date,
    sponsor: str,
    code: str,
    title: str,
    file: str,
    substance: str,
    sites: tuple[tuple[str, str, int], ...],
    **more: Raw,
) -> Dossier:
    """A clinical trial at ``sites`` (name, investigator, persons).

    ``more``: ``academic``, ``arms``, ``risk`` (questions answered yes), ``insured``; ``untrained``, ``other`` and ``uncontracted``
    are numbers of sites.
    """
    first = day + timedelta(days=90)
    last = first + timedelta(days=200)
    persons = sum(n for *_, n in sites)
    until = last.replace(year=last.year + 2, day=min(last.day, 28)) + timedelta(days=3)
    risk = set(more.get("risk", ()))
    asked = ("first_time", "children", "living", "other_use", "higher_dose", "overnight", "cuts", "dummy")
    insured = more.get("insured", persons * 50000)
    answers: dict[str, Any] = {
        "need": {"tries": "medicine", "change": False, **{q: q in risk for q in asked}},
        "sponsor": {
            "name": sponsor, "sort": "academic" if more.get("academic") else "firm", "address": "4 Saltern Slip", "answers": "Dr Sark",
            "language": "en", "post": "mail",
        },
        "trial": {
            "title": title, "code": code, "purpose": f"Whether {substance} shortens the winter cough.", "arms": more.get("arms", 2),
            "persons": persons, "first_day": first.isoformat(), "last_visit": last.isoformat(), "board": bool(risk & set(asked[:3])),
        },
        "product": {"file": file, "substance": substance, "dose": "12.5"},
        "insurance": {"insurer": "Harbour Mutual", "sum": f"{insured}.00", "starts": first.isoformat(), "ends": until.isoformat()},
        "sites": [],
    }  # fmt: skip
    files: Files = [
        ("protocol", "protocol.pdf", papers.paper(f"Protocol {code}", title, f"Number of persons: {persons}", pages=18)),
        (
            "certificate",
            "insurance.pdf",
            papers.paper(
                "Certificate", f"Sum insured: {insured}.00", f"In force until: {until:%-d %B %Y}", letterhead="Harbour Mutual"
            ),
        ),
        (
            "declaration",
            "declaration.jpg",
            papers.scanned(papers.paper("Declaration", f"{sponsor} answers for the trial. (signed)"), 3),
        ),
    ]
    if answers["trial"]["board"]:
        files.append(("board_rules", "board.pdf", papers.paper("Rules of the board", "Three persons, who may stop it.")))
    if "children" in risk:
        files.append(("children_plan", "children.pdf", papers.paper("Plan for the children", "Each is asked, and may say no.")))
    if "dummy" in risk:
        files.append(("dummy_reasons", "dummy.pdf", papers.paper("Reasons", "No treatment is known.")))
    for n, (site, leads, count) in enumerate(sites, 1):
        valid = first + timedelta(days=-20 if n in more.get("untrained", ()) else 300)
        spoken = "other" if n in more.get("other", ()) else "en"
        answers["sites"].append(
            {
                "id": n,
                "name": site,
                "address": f"{n} Bell Lane",
                "investigator": leads,
                "trained_until": valid.isoformat(),
                "spoken": spoken,
                "persons": count,
            }
        )
        files += [
            (f"cv.{n}", f"cv-{n}.pdf", papers.paper("Life and work", f"Name: {leads}", pages=2)),
            (
                f"training.{n}",
                f"training-{n}.pdf",
                papers.paper("Training", leads, f"Valid until: {valid:%-d %B %Y}", letterhead="Tide School"),
            ),
            (f"suitability.{n}", f"suitable-{n}.pdf", papers.paper("Suitability", f"{site} has 12 beds.")),
            (f"consent_form.{n}", f"consent-{n}.pdf", papers.paper("Consent", f"I take part at {site} of my own free will.")),
        ]
        if n not in more.get("uncontracted", ()):
            files.append(
                (f"contract.{n}", f"contract-{n}.pdf", papers.paper("Contract", f"{sponsor} and {site}. (signed) (signed)"))
            )
    return answers, files
