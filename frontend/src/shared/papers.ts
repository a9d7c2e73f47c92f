// What the papers of a case are called.
import type { Schemas } from "../api/client";
import { say } from "./text";

type Paper = Schemas["Moment"]["paper"];

const CALLED: Record<Exclude<Paper, "">, string> = {
  "filing receipt": say("filing receipt"),
  "answers receipt": say("answers receipt"),
  "payment receipt": say("payment receipt"),
  letter: say("letter"),
  "acceptance letter": say("acceptance letter"),
  decision: say("decision"),
  permit: say("permit"),
  reminder: say("reminder"),
  inquiry: say("inquiry"),
};

export const paperCalled = (paper: Paper): string => (paper ? CALLED[paper] : "");
