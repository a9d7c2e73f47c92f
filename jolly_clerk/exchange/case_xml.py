"""A case package in XML, by the schema that lies beside this module; what is read of foreign XML knows no entities and fetches nothing."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from lxml import etree

from jolly_clerk.core.case_package import CasePackage, Origin
from jolly_clerk.core.say import say

if TYPE_CHECKING:
    import xmlschema

NAMESPACE = "urn:jolly-clerk:case:1"
SCHEMA = Path(__file__).with_name("case-1.xsd")


class BadXml(ValueError):
    """XML that is not taken; the message says why."""


def as_xml(package: CasePackage) -> bytes:
    """The case in XML: what it says in words, its files, its versions and its history with the proof. The same package gives the same bytes."""
    root = etree.Element(_name("case"), nsmap={None: NAMESPACE})
    for name in ("format", "kind", "title", "state", "currency"):
        _text(root, name, getattr(package, name))
    for name in ("made_at", "filed_at", "changed_at"):
        _text(root, name, getattr(package, name).isoformat())
    _text(root, "made_for", package.made_for)
    _origin(root, "origin", package.origin)
    for one in package.came_from:
        _origin(root, "came_from", one)
    etree.SubElement(root, _name("edition"), **package.edition.model_dump())
    etree.SubElement(root, _name("applicant"), **package.applicant.model_dump())
    for person in package.people:
        etree.SubElement(root, _name("person"), **person.model_dump())
    for answer in package.answers:
        _text(root, "answer", answer.value, label=answer.label)
    for step in package.steps:
        _text(root, "step", step.text, no=str(step.no), at=step.at.isoformat(), who=step.who)
    for r in package.requirements:
        _text(root, "requirement", r.title, id=r.id, standing=r.standing, judged=str(r.judged).lower())
    for fee in package.fees:
        amount = {} if fee.amount is None else {"amount": f"{fee.amount}"}
        _text(root, "fee", fee.title, id=fee.id, **amount)
    _text(root, "paid", f"{package.paid}")
    _text(root, "open", f"{package.open}")
    for limit in package.limits:
        _text(root, "limit", limit.what, day=limit.day.isoformat())
    for file in package.files:
        _text(root, "file", file.name, sha256=file.sha256, path=file.path, size=str(file.size))
    for version in package.versions:
        _text(root, "version", version.dossier, no=str(version.no), at=version.at.isoformat(), salt=version.salt)
    for entry in package.history:
        told = etree.SubElement(root, _name("entry"), no=str(entry.no), salt=entry.salt, previous=entry.previous, hash=entry.hash)
        if entry.body is not None:
            _text(told, "body", entry.body)
        if entry.personal is not None:
            _text(told, "personal", entry.personal)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def read_xml(content: bytes) -> etree._Element:
    """Foreign XML as a tree. Raises BadXml, with the line, if it is no XML or declares a document type, which could bring entities along."""
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(content, parser)
    except etree.XMLSyntaxError as error:
        raise BadXml(say("line {line}: {why}", line=error.lineno or 0, why=error.msg)) from None
    if root.getroottree().docinfo.doctype:
        raise BadXml(say("it declares a document type; such XML is not read"))
    return root


def need_valid(content: bytes) -> None:
    """Raise BadXml unless the XML is a case by the schema."""
    error = next(_schema().iter_errors(read_xml(content)), None)
    if error is not None:
        raise BadXml(say("{where}: {why}", where=error.path or "/", why=(error.reason or "").strip()))


@cache
def _schema() -> xmlschema.XMLSchema:
    import xmlschema  # loaded with the first package

    return xmlschema.XMLSchema(str(SCHEMA))


def _name(local: str) -> str:
    return f"{{{NAMESPACE}}}{local}"


def _text(parent: etree._Element, local: str, text: str, **attributes: str) -> None:
    made = etree.SubElement(parent, _name(local), attrib={k: _clean(v) for k, v in attributes.items()})
    made.text = _clean(text)


def _origin(parent: etree._Element, local: str, origin: Origin) -> None:
    told = {key: str(value) for key, value in origin.model_dump().items()}
    etree.SubElement(parent, _name(local), attrib=told)


def _clean(text: str) -> str:
    """Text without the characters that XML 1.0 cannot hold; they become U+FFFD."""
    return "".join(
        c if c in "\t\n\r" or (c >= " " and not "\ud800" <= c <= "\udfff" and c not in "\ufffe\uffff") else "\ufffd" for c in text
    )
