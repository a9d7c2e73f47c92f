// Rights of an invitation, as the screen names them, and where what one was invited to is kept.
import type { Schemas } from "../api/client";
import { say } from "../shared/text";

export type Right = Schemas["Invited"]["rights"][number];
export const INVITED = ["invited"];
export const invitationsKey = (of: string) => ["invitations", of];

/** The rights that can be given beside looking, each with what it means. */
export const rightsToGive = (): { id: Right; title: string; about: string }[] => [
  { id: "fill", title: say("Fill in"), about: say("Answers questions, in all parts or in those you choose.") },
  { id: "attach", title: say("Attach files"), about: say("Adds, replaces and removes documents.") },
  { id: "sign", title: say("Sign"), about: say("Signs in their own name and ticks the declarations.") },
  { id: "pay", title: say("Pay"), about: say("Sees the case once it is filed, and pays what is due.") },
  { id: "answer", title: say("Answer letters"), about: say("Prepares and sends what the office asks for.") },
];
