// Others at work in a filing or a case: who was invited, what each may do and did; somebody new.
import { Checkbox, TextInput } from "@mantine/core";
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { since } from "../shared/say";
import { say } from "../shared/text";
import { useDraft } from "./draft";
import { invitationsKey, type Right, rightsToGive } from "./invited";
import "./filing.css";
import "./others.css";

type Invited = Schemas["Invited"];
type Part = { id: string; title: string };
const NOBODY = { id: "", mail: "", name: "", rights: ["fill"] as Right[], parts: [] as string[] };

/** Those of a filing that is being prepared. */
export function OthersOfDraft() {
  const { draft: id = "" } = useParams();
  const work = useDraft(id);
  if (work.instead)
    return (
      <main className="jc-page">
        <ProblemNote error={work.instead} />
      </main>
    );
  if (!work.view) return <Skeleton lines={6} />;
  const parts = work.view.form.parts.map((p) => ({ id: p.id, title: p.title }));
  return <Others of={id} back={`/filing/${id}`} title={work.view.assessment.title} parts={parts} />;
}

/** Those of a case. */
export function OthersOfCase() {
  const { reference = "" } = useParams();
  return <Others of={reference} back={`/cases/${reference}`} title={reference} parts={[]} />;
}

function Others({ of, back, title, parts }: { of: string; back: string; title: string; parts: Part[] }) {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState(NOBODY);
  const invited = useQuery({
    queryKey: invitationsKey(of),
    queryFn: () => ask(api.GET("/api/invitations", { params: { query: { of } } })),
  });
  useHeading(true);
  useDocumentTitle([say("Others at work"), title].join(" - "));
  const put = useMutation({
    mutationFn: () => {
      const { id: _, ...who } = chosen;
      return ask(api.POST("/api/invitations", { body: { of, ...who } }));
    },
    onSuccess: (all) => {
      queries.setQueryData(invitationsKey(of), all);
      setChosen(NOBODY);
    },
  });
  const end = useMutation({
    mutationFn: (invitation: string) =>
      ask(api.DELETE("/api/invitations/{invitation}", { params: { path: { invitation } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: invitationsKey(of) }),
  });
  return (
    <main className="jc-page others">
      <p>
        <Link to={back}>{say("Back to {{title}}", { title })}</Link>
      </p>
      <h1 tabIndex={-1}>{say("Others at work")}</h1>
      <p className="second">
        {say(
          "Whoever you invite sees all of this filing, does what you allow, and nothing else. You alone file it, withdraw it and invite.",
        )}
      </p>
      <ProblemNote error={invited.error ?? end.error} />
      {invited.isPending && <Skeleton lines={3} />}
      {invited.data?.length === 0 && <p className="second">{say("Nobody was invited yet.")}</p>}
      {invited.data && invited.data.length > 0 && (
        <ul className="others-list">
          {invited.data.map((one) => (
            <OneOther key={one.id} one={one} onChange={() => setChosen(one)} onEnd={() => end.mutate(one.id)} />
          ))}
        </ul>
      )}
      <form
        className="others-form"
        aria-label={chosen.id ? say("What {{name}} may do", { name: chosen.name }) : say("Invite somebody")}
        onSubmit={(e) => {
          e.preventDefault();
          put.mutate();
        }}
      >
        <h2>{chosen.id ? say("What {{name}} may do", { name: chosen.name }) : say("Invite somebody")}</h2>
        <ProblemNote error={put.error} />
        {!chosen.id && (
          <div className="others-who">
            <TextInput
              label={say("Name")}
              required
              value={chosen.name}
              maxLength={120}
              onChange={(e) => setChosen({ ...chosen, name: e.target.value })}
            />
            <TextInput
              label={say("Mail address")}
              type="email"
              required
              value={chosen.mail}
              maxLength={200}
              onChange={(e) => setChosen({ ...chosen, mail: e.target.value })}
            />
          </div>
        )}
        <RightsOf chosen={chosen} parts={parts} onChange={setChosen} />
        <p>
          <button type="submit" className="jc-button" disabled={put.isPending}>
            {chosen.id ? say("Change it") : say("Send the invitation")}
          </button>{" "}
          {chosen.id && (
            <button type="button" className="jc-link" onClick={() => setChosen(NOBODY)}>
              {say("cancel")}
            </button>
          )}
        </p>
      </form>
    </main>
  );
}

function RightsOf({
  chosen,
  parts,
  onChange,
}: {
  chosen: typeof NOBODY;
  parts: Part[];
  onChange: (chosen: typeof NOBODY) => void;
}) {
  const has = (right: Right) => chosen.rights.includes(right);
  const toggled = <T,>(all: T[], one: T) => (all.includes(one) ? all.filter((x) => x !== one) : [...all, one]);
  return (
    <fieldset className="others-rights">
      <legend>{say("They may look at all of it, and")}</legend>
      {rightsToGive().map((right) => (
        <div key={right.id}>
          <Checkbox
            label={right.title}
            description={right.about}
            checked={has(right.id)}
            onChange={() => onChange({ ...chosen, rights: toggled(chosen.rights, right.id) })}
          />
          {right.id === "fill" && has("fill") && parts.length > 1 && (
            <details className="others-parts" open={chosen.parts.length > 0}>
              <summary>
                {chosen.parts.length > 0 ? say("only in these parts") : say("in all parts; choose some instead")}
              </summary>
              {parts.map((part) => (
                <Checkbox
                  key={part.id}
                  size="xs"
                  label={part.title}
                  checked={chosen.parts.includes(part.id)}
                  onChange={() => onChange({ ...chosen, parts: toggled(chosen.parts, part.id) })}
                />
              ))}
            </details>
          )}
        </div>
      ))}
    </fieldset>
  );
}

function OneOther({ one, onChange, onEnd }: { one: Invited; onChange: () => void; onEnd: () => void }) {
  return (
    <li>
      <p>
        <b>{one.name}</b> <span className="second">{one.mail}</span>
        {!one.joined && <span className="others-waits">{say("has no account yet")}</span>}
      </p>
      <p>{say("may {{rights}}", { rights: one.said })}</p>
      {one.uses.length === 0 ? (
        <p className="second">{say("Has not been here yet. Invited {{at}}.", { at: since(one.made_at) })}</p>
      ) : (
        <ul className="others-uses">
          {one.uses.map((use) => (
            <li key={use.said}>
              {use.said} <span className="second">{since(use.last_at)}</span>
              {use.count > 1 && <span className="second"> · {say("{{count}} times", { count: use.count })}</span>}
            </li>
          ))}
        </ul>
      )}
      <p>
        <button type="button" className="jc-link" onClick={onChange}>
          {say("Change what they may do")}
          <span className="jc-hidden">: {one.name}</span>
        </button>{" "}
        <AskFirst
          question={say("End the invitation of {{name}}? What they did stays.", { name: one.name })}
          yes={say("End it")}
          onYes={onEnd}
          className="jc-link"
        >
          {say("End the invitation")}
          <span className="jc-hidden">: {one.name}</span>
        </AskFirst>
      </p>
    </li>
  );
}
