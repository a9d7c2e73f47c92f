"""What the applicant signs and declares, as an edition words it."""

from __future__ import annotations

from jolly_clerk.core.rulebook.said import Id, Rule, Said, Words


class Signature(Said):
    """The declaration that the applicant signs."""

    text: Words
    article: Words


class Declaration(Said):
    """Something that the applicant declares or consents to beside the signature, ticked on its own and worded by the authority.

    An ``optional`` one is a consent that may be refused; with ``when`` it is asked only while that holds.
    """

    declare: Id
    title: Words
    text: Words
    when: Rule | None = None
    optional: bool = False
    article: Words
