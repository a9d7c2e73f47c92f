"""Routes: the moves of a case, each one row of a table: its address, its body, what is done, and a sentence about it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi.responses import JSONResponse
from pydantic import BaseModel

from jolly_clerk.office.cases import endings, leaving, paying, refunding
from jolly_clerk.office.cases.casework import Loaded
from jolly_clerk.office.desk import checking, correcting, handwork, inquiring, owning, replacing, reviewing, talking, turning
from jolly_clerk.office.meetings import tabling
from jolly_clerk.office.office import Office, Who
from jolly_clerk.web.asking import Asker, Seen, TheOffice
from jolly_clerk.web.bodies import (
    AddRequirement,
    ArrangePoints,
    AskAboutChange,
    AskBody,
    AskPointAgain,
    AskRegister,
    AssignCase,
    BodyAnswered,
    ChargeBack,
    ClosePoint,
    ConfirmRest,
    Grounds,
    HandOver,
    InLane,
    JudgeRequirement,
    LaneGrounds,
    Nothing,
    PutOn,
    PutRightBody,
    ReadyStep,
    ReplaceLetter,
    SetFee,
    SettleFee,
    TakeChange,
    TakeMoney,
    TakeOff,
    TurnKind,
    Withdraw,
    WordPoint,
    Words,
    WriteMinutes,
    WriteNote,
)
from jolly_clerk.web.changed import CaseChanged, case_changed
from jolly_clerk.web.turns import router_of

router = router_of("/api/cases/{reference}", "moves")
UseCase = Callable[[Office, Who, str, Any, int | None], Loaded]
#: address below the case, body, what is done, what it is
MOVES: tuple[tuple[str, type[BaseModel], UseCase, str], ...] = (
    (
        "checking",
        Nothing,
        lambda o, w, r, b, seen: checking.begin_checking(o, w, r, seen),
        "Begin checking; the case is this officer's.",
    ),
    (
        "judgements",
        JudgeRequirement,
        lambda o, w, r, b, seen: checking.judge(o, w, r, b.requirement, b.standing, b.reason, seen),
        "Judge a requirement.",
    ),
    (
        "judgements/rest",
        ConfirmRest,
        lambda o, w, r, b, seen: checking.confirm_rest(o, w, r, b.requirements, seen),
        "Confirm what the machine proposes as met and what was looked over.",
    ),
    (
        "words",
        WordPoint,
        lambda o, w, r, b, seen: checking.word_point(o, w, r, b.requirement, b.text, seen),
        "Keep the words of a point.",
    ),
    (
        "letter",
        InLane,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "send the letter", b.lane, lambda then: checking.send_letter(then, w, r, seen, b.lane)
        ),
        "Send the letter and pause the clock.",
    ),
    (
        "points/closed",
        ClosePoint,
        lambda o, w, r, b, seen: checking.close_point(o, w, r, b.no, seen, b.lane, b.reason),
        "Close an answered point.",
    ),
    (
        "points/asked-again",
        AskPointAgain,
        lambda o, w, r, b, seen: checking.ask_again(o, w, r, b.no, b.text, seen, b.lane),
        "Ask an answered point again.",
    ),
    (
        "changes",
        TakeChange,
        lambda o, w, r, b, seen: checking.take_change(o, w, r, b.place, seen),
        "Take a change that nobody asked for.",
    ),
    (
        "questions",
        AskAboutChange,
        lambda o, w, r, b, seen: checking.ask_about(o, w, r, b.place, b.text, seen),
        "Ask about a change that nobody asked for.",
    ),
    (
        "acceptance",
        InLane,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "accept as complete", b.lane, lambda then: checking.accept(then, w, r, seen, b.lane)
        ),
        "Accept as complete.",
    ),
    (
        "put-right",
        PutRightBody,
        lambda o, w, r, b, seen: correcting.put_right(o, w, r, b.place, b.value, b.reason, seen),
        "Put a clerical error in an answer right; the applicant is told.",
    ),
    (
        "registers",
        AskRegister,
        lambda o, w, r, b, seen: handwork.ask_register(o, w, r, b.name, seen),
        "Ask a register again; its answer is kept as evidence.",
    ),
    (
        "requirements",
        AddRequirement,
        lambda o, w, r, b, seen: handwork.add_requirement(o, w, r, b.title, b.text, seen, b.lane, b.answer, b.place),
        "Ask for something that the rules did not foresee.",
    ),
    (
        "arrangement",
        ArrangePoints,
        lambda o, w, r, b, seen: handwork.arrange_points(o, w, r, b.groups, seen, b.lane),
        "Order and merge the points of the next letter.",
    ),
    ("undo", Nothing, lambda o, w, r, b, seen: handwork.undo(o, w, r, seen), "Take the own last step back."),
    (
        "fees",
        SetFee,
        lambda o, w, r, b, seen: handwork.set_fee(o, w, r, b.line, b.amount, b.reason, seen),
        "Waive or set a fee line.",
    ),
    (
        "fees/settlement",
        SettleFee,
        lambda o, w, r, b, seen: handwork.settle_fee(o, w, r, b.line, b.confirmed, b.reason, seen),
        "Confirm a fee that was set, as a second person.",
    ),
    (
        "letter/came-back",
        InLane,
        lambda o, w, r, b, seen: handwork.letter_came_back(o, w, r, seen, b.lane),
        "The letter came back.",
    ),
    (
        "letter/again",
        InLane,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "send again", b.lane, lambda then: handwork.send_again(then, w, r, seen, b.lane)
        ),
        "Write the letter that came back anew.",
    ),
    (
        "letter/replaced",
        ReplaceLetter,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "replace the letter", b.lane, lambda then: replacing.replace_letter(then, w, r, b.words(), seen, b.lane)
        ),
        "Replace a letter that was wrong while its answers are out.",
    ),
    (
        "letter/posted",
        InLane,
        lambda o, w, r, b, seen: inquiring.letter_posted(o, w, r, seen, b.lane),
        "The printed letter left by post on its day.",
    ),
    (
        "inquiries",
        AskBody,
        lambda o, w, r, b, seen: inquiring.ask_body(o, w, r, b.body, b.text, seen),
        "Ask another body about the case.",
    ),
    (
        "inquiries/answered",
        BodyAnswered,
        lambda o, w, r, b, seen: inquiring.body_answered(o, w, r, b.no, b.text, seen),
        "The answer of another body came.",
    ),
    (
        "more-time",
        InLane,
        lambda o, w, r, b, seen: handwork.more_time(o, w, r, seen, b.lane),
        "The one extension: asked for by the applicant, or given by an officer.",
    ),
    (
        "not-accepted",
        LaneGrounds,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "do not accept", b.lane, lambda then: endings.do_not_accept(then, w, r, b.grounds, seen, b.lane)
        ),
        "Do not accept the application, or one lane of it.",
    ),
    (
        "out-of-scope",
        Grounds,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "put out of scope", "", lambda then: endings.put_out_of_scope(then, w, r, b.grounds, seen)
        ),
        "The application does not belong here.",
    ),
    (
        "turning",
        TurnKind,
        lambda o, w, r, b, seen: turning.turn(o, w, r, b.kind, b.grounds),
        "Propose that the application is turned into another kind; the applicant agrees by filing what is prepared.",
    ),
    (
        "owner",
        AssignCase,
        lambda o, w, r, b, seen: owning.assign(o, w, r, b.to, b.because, seen),
        "Take a case over, hand it on, give it back; a lead assigns any.",
    ),
    (
        "reopening",
        Grounds,
        lambda o, w, r, b, seen: owning.reopen(o, w, r, b.grounds, seen),
        "Reopen a case that the office or its clock ended.",
    ),
    (
        "hand-over",
        HandOver,
        lambda o, w, r, b, seen: leaving.before_it_leaves(
            o, w, r, "hand over", "", lambda then: reviewing.hand_over(then, w, r, b.to, seen, b.beside)
        ),
        "Hand a complete case over to a reviewer, and to others who sign off first.",
    ),
    (
        "sign-off",
        Words,
        lambda o, w, r, b, seen: reviewing.sign_off(o, w, r, b.words, seen),
        "Sign off beside the leading reviewer.",
    ),
    (
        "handed-back",
        Grounds,
        lambda o, w, r, b, seen: reviewing.hand_back(o, w, r, b.grounds, seen),
        "Hand a case back to the officers.",
    ),
    (
        "review-questions",
        Words,
        lambda o, w, r, b, seen: reviewing.ask_applicant(o, w, r, b.words, seen),
        "Ask the applicant something by a letter of the case.",
    ),
    (
        "agenda",
        PutOn,
        lambda o, w, r, b, seen: tabling.put(o, w, r, b.meeting, seen),
        "Put a case on the agenda of a meeting.",
    ),
    (
        "agenda/off",
        TakeOff,
        lambda o, w, r, b, seen: tabling.take_off(o, w, r, b.because, seen),
        "Take a case off the agenda on which it is.",
    ),
    (
        "minutes",
        WriteMinutes,
        lambda o, w, r, b, seen: tabling.minute(o, w, r, b.result, b.words, seen),
        "Minute what a meeting came to in a case.",
    ),
    (
        "grant",
        Grounds,
        lambda o, w, r, b, seen: reviewing.grant(o, w, r, b.grounds, seen),
        "Grant it, with conditions if there are any.",
    ),
    ("refusal", Grounds, lambda o, w, r, b, seen: reviewing.refuse(o, w, r, b.grounds, seen), "Refuse the application."),
    (
        "money",
        TakeMoney,
        lambda o, w, r, b, seen: paying.take_money(o, w, r, b.amount, b.means, b.mark, b.value_day, b.payer, b.account, b.debt),
        "Book money that came another way than by the terminal.",
    ),
    (
        "charge-backs",
        ChargeBack,
        lambda o, w, r, b, seen: refunding.charge_back(o, w, r, b.payment, b.because, seen),
        "A payment was charged back, or a cheque bounced.",
    ),
    (
        "ready/taken-back",
        ReadyStep,
        lambda o, w, r, b, seen: leaving.take_step_back(o, w, r, b.step),
        "Take back what is ready before it leaves.",
    ),
    (
        "ready/sent",
        ReadyStep,
        lambda o, w, r, b, seen: leaving.send_step_now(o, w, r, b.step),
        "Let what is ready leave at once.",
    ),
    ("notes", WriteNote, lambda o, w, r, b, seen: talking.note(o, w, r, b.text, b.caller), "Write an internal note."),
    ("withdrawal", Withdraw, lambda o, w, r, b, seen: endings.withdraw(o, w, r, b.reason, seen), "Withdraw an application."),
)


def _route(path: str, body_type: type[BaseModel], use_case: UseCase, says: str) -> None:
    def move(reference: str, body: Any, office: TheOffice, who: Asker, seen: Seen) -> JSONResponse:
        return case_changed(office, who, seen, use_case(office, who, reference, body, seen))

    move.__annotations__ |= {"body": body_type}
    move.__name__, move.__doc__ = path.replace("/", "_").replace("-", "_"), says
    router.post(f"/{path}", response_model=CaseChanged)(move)


for _path, _body, _use_case, _says in MOVES:
    _route(_path, _body, _use_case, _says)
