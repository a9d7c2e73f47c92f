// What the way in says of a draft, as soon as an answer gives it: nothing is to be filed here, the letter that says so, and insisting.
import { Textarea } from "@mantine/core";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { Verdict } from "../wayin/Verdict";
import type { Work } from "./draft";

export function WayInSays({ work, id }: { work: Work; id: string }) {
  const view = work.view;
  const [reason, setReason] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<unknown>(null);
  const decided = view?.assessment.way_in;
  if (!view || !decided?.stops) return null;
  const insists = view.dossier.insists ?? "";
  async function insist(text: string) {
    try {
      await work.change((seen) =>
        ask(
          api.PUT("/api/drafts/{draft}/insisting", {
            params: { path: { draft: id } },
            headers: seen,
            body: { reason: text },
          }),
        ),
      );
      setTrouble(null);
      setReason(null);
    } catch (error) {
      setTrouble(error);
    }
  }
  return (
    <Verdict decided={decided} kind={view.form.kind} law={view.form.law} answers={work.answers}>
      <ProblemNote error={trouble} />
      {!decided.insist ? (
        <p>{say("It cannot be filed here.")}</p>
      ) : insists ? (
        <p>
          {say("You file it all the same: {{insists}}", { insists })}{" "}
          <button type="button" className="jc-link" onClick={() => insist("")}>
            {say("take that back")}
          </button>
        </p>
      ) : reason === null ? (
        <p>
          {say("It cannot be filed like this.")}{" "}
          <button type="button" className="jc-link" onClick={() => setReason("")}>
            {say("File it all the same, with a reason")}
          </button>
        </p>
      ) : (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            insist(reason);
          }}
        >
          <Textarea
            label={say("Why is it to be filed all the same?")}
            description={say("An officer will look at this first.")}
            autosize
            minRows={2}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
          />
          <p>
            <button type="submit" className="jc-button small" disabled={!reason.trim()}>
              {say("File it all the same")}
            </button>{" "}
            <button type="button" className="jc-link" onClick={() => setReason(null)}>
              {say("cancel")}
            </button>
          </p>
        </form>
      )}
    </Verdict>
  );
}
