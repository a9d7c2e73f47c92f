// A draft that adds something to a filed case: what it adds, what that costs, and sending it.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { placeOf } from "../api/place";
import { type DraftView, seenAt } from "../api/views";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { BeingRead } from "./BeingRead";
import type { Work } from "./draft";
import "./adding.css";

/** The pages on which something is filled in: what is added, its documents, the signature. */
export function isOfAddition(view: DraftView, section: string): boolean {
  if (!view.adding) return true;
  const { head } = placeOf(view.adding.adds);
  const part = view.form.parts.find((p) => p.id === head);
  return section === head || section === "sign" || (section === "documents" && !!part?.each);
}

/** What is added to which case, and what it costs. */
export function AddingNote({ view }: { view: DraftView }) {
  if (!view.adding) return null;
  return (
    <section className="adding-note" aria-label={say("What you add")}>
      <p>
        <b>{say("You add to {{reference}}: {{title}}.", { reference: view.answers_case, title: view.adding.title })}</b>{" "}
        {view.adding.told}
      </p>
      <p className="second">
        {say("What was filed stays as it is. You sign again, and nothing stands still meanwhile.")}
      </p>
    </section>
  );
}

/** Sending it, once nothing is left and it is signed. */
export function SendAddition({ work, id }: { work: Work; id: string }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const view = work.view;
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/drafts/{draft}/addition", {
          params: { path: { draft: id } },
          headers: seenAt(view?.revision ?? 0),
          body: { take_gaps: false, code: "" },
        }),
      ),
    onSuccess: ({ reference }) => {
      const costs = Number(view?.adding?.amount ?? 0) > 0;
      queries.removeQueries({ queryKey: ["drafts"] });
      queries.invalidateQueries();
      navigate(costs ? `/cases/${reference}/pay` : `/cases/${reference}`, { replace: true });
    },
  });
  if (!view?.adding) return null;
  const left = view.assessment.left;
  return (
    <section className="adding-send">
      <BeingRead files={view.files} waits={send.isPending} />
      <ProblemNote error={send.error} />
      <button
        type="button"
        className="jc-button"
        disabled={send.isPending || left.length > 0 || work.state !== "kept"}
        onClick={() => send.mutate()}
      >
        {say("Send it to the office")}
      </button>
      {left[0] && (
        <p className="madder">
          {say("Not yet: {{what}}", { what: left[0].title || left[0].text })}{" "}
          {left[0].place && left[0].place.ref !== "signature" && (
            <Link to={`/filing/${id}/${sectionOf(left[0].place.ref)}#${left[0].place.ref}`}>{say("Go there")}</Link>
          )}
        </p>
      )}
    </section>
  );
}

/** On which page of the filing a place stands. */
const sectionOf = (ref: string) => placeOf(ref).head;
