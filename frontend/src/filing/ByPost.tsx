// Something that comes by post: it gets a docket, which is printed and sent with it.
import { TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { DraftView } from "../api/views";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";
import "./documents.css";

type Docket = NonNullable<DraftView["dossier"]["dockets"]>[number];

/** The dockets of a filing or a case, each to be printed. */
export function Dockets({ dockets, base }: { dockets: readonly Docket[]; base: string }) {
  if (dockets.length === 0) return null;
  return (
    <ul className="filing-dockets">
      {dockets.map((d) => (
        <li key={d.no}>
          {say("By post: {{what}}", { what: d.what })}{" "}
          <a href={`${base}/dockets/${d.no}`} target="_blank" rel="noreferrer">
            {say("docket {{no}} (PDF)", { no: d.no })}
          </a>
        </li>
      ))}
    </ul>
  );
}

export function ByPost({ work, id, slot }: { work: Work; id: string; slot: string }) {
  const [what, setWhat] = useState("");
  const [open, setOpen] = useState(false);
  const [trouble, setTrouble] = useState<unknown>(null);
  const own = (work.view?.dossier.dockets ?? []).filter((d) => d.slot === slot);
  async function add() {
    try {
      await work.change((seen) =>
        ask(
          api.POST("/api/drafts/{draft}/dockets", {
            params: { path: { draft: id } },
            headers: seen,
            body: { slot, what },
          }),
        ),
      );
      setTrouble(null);
      setWhat("");
      setOpen(false);
    } catch (error) {
      setTrouble(error);
    }
  }
  const remove = (docket: string) =>
    work
      .change((seen) =>
        ask(
          api.DELETE("/api/drafts/{draft}/dockets/{docket}", {
            params: { path: { draft: id, docket } },
            headers: seen,
          }),
        ),
      )
      .catch(setTrouble);
  return (
    <div className="filing-by-post">
      {own.map((d) => (
        <p key={d.no}>
          {say("By post: {{what}}", { what: d.what })}{" "}
          <a href={`/api/drafts/${id}/dockets/${d.no}`} target="_blank" rel="noreferrer">
            {say("docket {{no}} (PDF)", { no: d.no })}
          </a>{" "}
          <button type="button" className="jc-link" onClick={() => remove(d.no)}>
            {say("not by post after all")}
            <span className="jc-hidden"> {d.what}</span>
          </button>
        </p>
      ))}
      {own.length > 0 && (
        <p className="second">{say("Print the docket and send it with the thing: by its code the office knows it.")}</p>
      )}
      {open ? (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            add();
          }}
        >
          <TextInput label={say("What do you send?")} value={what} onChange={(e) => setWhat(e.target.value)} />
          <button type="submit" className="jc-button plain small" disabled={what.trim().length < 2}>
            {say("Make a docket")}
          </button>{" "}
          <button type="button" className="jc-link" onClick={() => setOpen(false)}>
            {say("Leave it")}
          </button>
        </form>
      ) : (
        <button type="button" className="jc-link" onClick={() => setOpen(true)}>
          {own.length > 0 ? say("Send something else by post") : say("Send it by post")}
        </button>
      )}
      <ProblemNote error={trouble} />
    </div>
  );
}
