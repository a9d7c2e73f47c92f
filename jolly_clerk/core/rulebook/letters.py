"""The fixed words of every letter; one that an edition does not word has the plain words of the house."""

from __future__ import annotations

from jolly_clerk.core.rulebook.said import Said, Words
from jolly_clerk.core.say import _


class LetterText(Said):
    """The fixed words around what a letter says."""

    subject: Words
    opening: Words
    closing: Words


_REVIEW = _("If you disagree, write to the office within 30 days of this letter; another person will look at it.")
_ASKED = _("You asked whether you need our {grants}. By what you told us")


class Letters(Said):
    """The texts of every letter. Braces name answers, and ``grounds``, ``due``, ``refund``, ``amount``, ``because``, ``body``, ``grants``."""

    correction: LetterText = LetterText(
        subject=_("We need a few things"),
        opening=_("We read your application. {count} to put right before we can go on:"),
        closing=_("Please answer by {due}. The clock of this office stands still until then."),
    )
    complete: LetterText = LetterText(
        subject=_("Your application is complete"),
        opening=_("Everything is there."),
        closing=_("You can expect the decision by {target}."),
    )
    lane_complete: LetterText = LetterText(
        subject=_("A part of your application is complete"),
        opening=_("Everything is there for this part: {lane}."),
        closing=_(
            "The application is complete when its common part and one more are; the parts that are complete later join it."
        ),
    )
    lane_ended: LetterText = LetterText(
        subject=_("A part of your application is closed"),
        opening=_("We do not go on with this part: {lane}. {grounds}"),
        closing=" ".join((_("The other parts go on."), _REVIEW)),
    )
    not_needed: LetterText = LetterText(
        subject=_("No {grants} is needed"),
        opening=" ".join((_ASKED, _("you do not: {because}"))),
        closing=_("Keep this letter. If your plans change, ask again."),
    )
    belongs_elsewhere: LetterText = LetterText(
        subject=_("This belongs to another office"),
        opening=" ".join((_ASKED, _("this belongs to another office: {because}"))),
        closing=_("Keep this letter."),
    )
    reminder: LetterText = LetterText(
        subject="A reminder",
        opening=_("Something still waits for you in this case: {because}"),
        closing=_("The last day is {due}."),
    )
    permit_reminder: LetterText = LetterText(
        subject=_("A day that comes nearer"), opening=_("{because}"), closing=_("The last day is {due}.")
    )
    put_right: LetterText = LetterText(
        subject=_("A clerical error was put right"),
        opening=_("We put a clerical error in your application right. {because}"),
        closing=_("Nothing else changes by it. If it is not what you meant, write to us."),
    )
    office_shut: LetterText = LetterText(
        subject=_("The office was shut on a day"), opening=_("{because}"), closing=_("{grounds} Nothing ends earlier by this.")
    )
    inquiry: LetterText = LetterText(
        subject=_("We ask for your statement"),
        opening=_("We are checking an application and ask {body} for a statement: {because}"),
        closing=_("Please answer by {due}; then we go on."),
    )
    extended: LetterText = LetterText(
        subject=_("You have more time"), opening=_("You asked for more time."), closing=_("Your answers are now due by {due}.")
    )
    not_accepted: LetterText = LetterText(
        subject=_("Your application is not accepted"), opening=_("We cannot accept your application. {grounds}"), closing=_REVIEW
    )
    out_of_scope: LetterText = LetterText(
        subject=_("Your application is out of scope"),
        opening=_("Your application does not belong here. {grounds}"),
        closing=" ".join((_("{refund} is paid back."), _REVIEW)),
    )
    lapsed: LetterText = LetterText(
        subject=_("Your application has lapsed"),
        opening=_("The time has run out: {grounds}"),
        closing=" ".join((_("You may file again at any time."), _REVIEW)),
    )
    withdrawn: LetterText = LetterText(
        subject=_("Your application is withdrawn"),
        opening=_("You withdrew your application."),
        closing=_("{refund} is paid back. You may file again at any time."),
    )
    granted: LetterText = LetterText(
        subject=_("Your {grants} is granted"),
        opening=_("Your application is granted. {grounds}"),
        closing=" ".join((_("{amount} is due before the {grants} is issued."), _REVIEW)),
    )
    refused: LetterText = LetterText(
        subject=_("Your application is refused"), opening=_("Your application is refused. {grounds}"), closing=_REVIEW
    )


def letter_texts() -> list[str]:
    """Every text of the letters as the house words them."""
    return [text for letter in Letters() for text in letter[1].model_dump().values()]
