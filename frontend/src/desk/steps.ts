// The other steps with a case, in the order in which they are offered, each with what it asks for.
import { say } from "../shared/text";

export type Step = {
  move: string;
  /** The move by which it is allowed, if it is none of its own. */
  by?: string;
  label: string;
  says: string;
  fields: (
    | "place"
    | "title"
    | "text"
    | "points"
    | "answer"
    | "amount"
    | "means"
    | "mark"
    | "payment"
    | "body"
    | "officer"
    | "kind"
    | "agenda"
  )[];
  title?: string;
  ask?: string;
  least?: number;
  offers?: string;
  plain?: boolean;
};

export const STEPS: Step[] = [
  {
    move: "grant",
    label: say("Grant"),
    says: say("What is due at issue falls due; then the document goes out."),
    fields: ["text"],
    ask: say("Conditions, if there are any"),
    least: 0,
    plain: true,
  },
  {
    move: "refuse",
    label: say("Refuse"),
    says: say("The letter says what can be done against it."),
    fields: ["text"],
    ask: say("On which grounds?"),
    offers: "refused",
    plain: true,
  },
  {
    move: "sign off",
    label: say("Sign off"),
    says: say("You have nothing against a decision. Whoever leads the review reads your words."),
    fields: ["text"],
    ask: say("What is to be minded, if anything?"),
    least: 0,
    plain: true,
  },
  {
    move: "put on an agenda",
    label: say("Put it on an agenda"),
    says: say(
      "The meeting looks at it; then you decide as it is minuted. It can go over to another agenda, or off it.",
    ),
    fields: ["agenda"],
    plain: true,
  },
  {
    move: "ask the applicant",
    label: say("Ask the applicant"),
    says: say("A letter of the case; the answer comes as a message. No clock stands still for it."),
    fields: ["text"],
    ask: say("What do you want to know?"),
  },
  {
    move: "hand back",
    label: say("Hand it back"),
    says: say("The officers have it again, complete and with no reviewer; what was signed off counts no more."),
    fields: ["text"],
    ask: say("Why?"),
  },
  {
    move: "add a requirement",
    label: say("Ask for something else"),
    says: say("Something that the rules did not foresee; it becomes a point of the next letter."),
    fields: ["title", "text", "answer"],
    ask: say("What would put it right?"),
  },
  {
    move: "put right",
    label: say("Put a clerical error right"),
    says: say("An answer that was plainly mistyped. Nothing else may change by it; the applicant is told."),
    fields: ["place", "title", "text"],
    title: say("It is to say"),
    ask: say("Why is it a clerical error?"),
  },
  {
    move: "more time",
    label: say("Give more time"),
    says: say("Once, as the rules say, from the same first day."),
    fields: [],
  },
  {
    move: "letter came back",
    label: say("The letter came back"),
    says: say("It never paused the clock; send it again."),
    fields: [],
  },
  {
    move: "send again",
    label: say("Send the letter again"),
    says: say("The pause and the period begin today."),
    fields: [],
  },
  {
    move: "replace the letter",
    label: say("Replace the letter"),
    says: say("It was wrong: the points are asked anew, the period to answer begins again, the clock stands still."),
    fields: ["points"],
  },
  {
    move: "letter posted",
    label: say("The letter was posted"),
    says: say("On the day from which its time is counted. If it left later, say that it came back and send it again."),
    fields: [],
  },
  {
    move: "ask another body",
    label: say("Ask another body"),
    says: say(
      "A letter goes with the case; the clock stands still as the rules say, until it answers or its time is over.",
    ),
    fields: ["title", "text"],
    title: say("Which body?"),
    ask: say("What is it asked?"),
  },
  {
    move: "another body answered",
    label: say("Another body has answered"),
    says: say("The office goes on."),
    fields: ["body", "text"],
    ask: say("What did it answer?"),
  },
  {
    move: "take money",
    label: say("Money came in"),
    says: say("A transfer, a cheque or cash."),
    fields: ["amount", "means", "mark"],
  },
  {
    move: "charge back",
    label: say("A payment was charged back"),
    says: say("By the payer's bank, or a cheque bounced: it counts as not made, and the amount is due again."),
    fields: ["payment", "text"],
    ask: say("What did the bank tell?"),
  },
  {
    move: "do not accept",
    label: say("Do not accept"),
    says: say("It ends the case; what was prepaid comes back."),
    fields: ["text"],
    ask: say("On which grounds?"),
    offers: "not accepted",
  },
  {
    move: "put out of scope",
    label: say("It is out of scope"),
    says: say("It ends the case; most of the fee comes back."),
    fields: ["text"],
    ask: say("Where does it belong?"),
    offers: "out of scope",
  },
  {
    move: "turn",
    by: "put out of scope",
    label: say("Turn it into another kind"),
    says: say(
      "It is proposed to the applicant, with answers and files. When the applicant files it, this case ends with nothing kept, and its money goes along.",
    ),
    fields: ["kind", "text"],
    ask: say("Why does it belong there? The applicant reads it."),
    least: 10,
  },
  {
    move: "assign",
    label: say("Give it to somebody"),
    says: say("Take it over, hand it on, or give it back: then nobody has it. Only the office sees this."),
    fields: ["officer", "text"],
    ask: say("Why, if it helps"),
    least: 0,
  },
  {
    move: "reopen",
    label: say("Reopen the case"),
    says: say("It goes on as it stood. What is to go back and has not left stays here; the applicant reads why."),
    fields: ["text"],
    ask: say("Why is it reopened?"),
  },
  { move: "undo", label: say("Take my last step back"), says: say("Until the next letter or decision."), fields: [] },
];
