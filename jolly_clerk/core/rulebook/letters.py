"""The fixed words of every letter; one that an edition does not word has the plain words of the house."""

from __future__ import annotations

from jolly_clerk.core.rulebook.said import Said, Words


class LetterText(Said):
    """The fixed words around what a letter says."""

    subject: Words
    opening: Words
    closing: Words


_REVIEW = "If you disagree, write to the office within 30 days of this letter; another person will look at it."
_ASKED = "You asked whether you need a permit. By what you told us"


class Letters(Said):
    """The texts of every letter. Braces name answers, and ``grounds``, ``due``, ``refund``, ``amount``, ``because``."""

    correction: LetterText = LetterText(
        subject="We need a few things",
        opening="We read your application. {count} to put right before we can go on:",
        closing="Please answer by {due}. The clock of this office stands still until then.",
    )
    complete: LetterText = LetterText(
        subject="Your application is complete", opening="Everything is there.", closing="You can expect the decision by {target}."
    )
    lane_complete: LetterText = LetterText(
        subject="A part of your application is complete",
        opening="Everything is there for this part: {lane}.",
        closing="The application is complete when its common part and one more are; the parts that are complete later join it.",
    )
    lane_ended: LetterText = LetterText(
        subject="A part of your application is closed",
        opening="We do not go on with this part: {lane}. {grounds}",
        closing=f"The other parts go on. {_REVIEW}",
    )
    not_needed: LetterText = LetterText(
        subject="No permit is needed",
        opening=f"{_ASKED} you do not: {{because}}",
        closing="Keep this letter. If your plans change, ask again.",
    )
    belongs_elsewhere: LetterText = LetterText(
        subject="This belongs to another office",
        opening=f"{_ASKED} this belongs to another office: {{because}}",
        closing="Keep this letter.",
    )
    reminder: LetterText = LetterText(
        subject="A reminder", opening="Something still waits for you in this case: {because}", closing="The last day is {due}."
    )
    extended: LetterText = LetterText(
        subject="You have more time", opening="You asked for more time.", closing="Your answers are now due by {due}."
    )
    not_accepted: LetterText = LetterText(
        subject="Your application is not accepted", opening="We cannot accept your application. {grounds}", closing=_REVIEW
    )
    out_of_scope: LetterText = LetterText(
        subject="Your application is out of scope",
        opening="Your application does not belong here. {grounds}",
        closing=f"{{refund}} is paid back. {_REVIEW}",
    )
    lapsed: LetterText = LetterText(
        subject="Your application has lapsed",
        opening="The time has run out: {grounds}",
        closing=f"You may file again at any time. {_REVIEW}",
    )
    withdrawn: LetterText = LetterText(
        subject="Your application is withdrawn",
        opening="You withdrew your application.",
        closing="{refund} is paid back. You may file again at any time.",
    )
    granted: LetterText = LetterText(
        subject="Your permit is granted",
        opening="Your application is granted. {grounds}",
        closing=f"{{amount}} is due before the permit is issued. {_REVIEW}",
    )
    refused: LetterText = LetterText(
        subject="Your application is refused", opening="Your application is refused. {grounds}", closing=_REVIEW
    )
