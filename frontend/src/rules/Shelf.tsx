// The rulebooks of the office: each kind with its editions on a line of time, what is being written, and what waits for a lead.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, since } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import "./rules.css";

type Kind = Schemas["KindLine"];

export function Shelf() {
  const found = useQuery({ queryKey: ["rules"], queryFn: () => ask(api.GET("/api/rules")) });
  const writes = !!useSession().data?.may?.writes_rules;
  return (
    <main className="jc-page rules-shelf">
      <h1>{say("Rulebooks")}</h1>
      <p className="second">
        {say("A case is decided by the edition that was in force on the day of its filing, and never changes it.")}
      </p>
      <p>
        <Link to="/rules/calendar">{say("Calendar of the office")}</Link>
      </p>
      <ProblemNote error={found.error} onAgain={() => found.refetch()} />
      {found.isPending && <Skeleton lines={8} />}
      {writes && <NewKind />}
      <ul className="rules-kinds">
        {found.data?.map((kind) => (
          <OneKind key={kind.kind} kind={kind} writes={writes} />
        ))}
      </ul>
    </main>
  );
}

function useBegin() {
  const go = useNavigate();
  return useMutation({
    mutationFn: (body: { of: string; kind: string }) => ask(api.POST("/api/rules/editions", { body })),
    onSuccess: ({ id }) => go(`/rules/${id}`),
  });
}

function NewKind() {
  const [kind, setKind] = useState("");
  const begin = useBegin();
  return (
    <form
      className="rules-new"
      onSubmit={(e) => {
        e.preventDefault();
        begin.mutate({ of: "", kind });
      }}
    >
      <label>
        {say("A new kind, called by two letters")}
        <input
          className="jc-field"
          value={kind}
          maxLength={2}
          size={3}
          onChange={(e) => setKind(e.target.value.toUpperCase())}
        />
      </label>
      <button type="submit" className="jc-button plain" disabled={kind.length < 2 || begin.isPending}>
        {say("Begin it from a pattern")}
      </button>
      <ProblemNote error={begin.error} />
    </form>
  );
}

function OneKind({ kind, writes }: { kind: Kind; writes: boolean }) {
  const begin = useBegin();
  const queries = useQueryClient();
  const withdraw = useMutation({
    mutationFn: (sha256: string) => ask(api.DELETE("/api/rules/published/{sha256}", { params: { path: { sha256 } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["rules"] }),
  });
  const newest = kind.editions.at(-1);
  return (
    <li className={kind.part_of ? "part" : undefined}>
      <h2>
        <span className="mono">{kind.kind}</span> {kind.title}
        {kind.part_of && <small> {say("belongs to {{kind}}", { kind: kind.part_of })}</small>}
      </h2>
      <ol className="rules-line">
        {kind.editions.map((edition) => (
          <li key={edition.sha256} className={edition.now ? "now" : edition.to_come ? "to-come" : "past"}>
            <b>{day(edition.in_force)}</b>
            <span>
              {edition.now ? say("in force") : edition.to_come ? say("to come") : say("past")} ·{" "}
              {things(edition.cases, "case")}
            </span>
            {edition.to_come && (
              <AskFirst
                className="jc-link quiet"
                question={say("Take back the edition of {{day}}? It is written on then.", {
                  day: day(edition.in_force),
                })}
                yes={say("Take it back")}
                onYes={() => withdraw.mutate(edition.sha256)}
              >
                {say("take it back")}
              </AskFirst>
            )}
          </li>
        ))}
        {kind.drafts.map((draft) => (
          <li key={draft.id} className="draft">
            <Link to={`/rules/${draft.id}`}>{draft.asked ? say("waits for a lead") : say("being written")}</Link>
            <span>
              {draft.by}, {since(draft.kept_at)}
            </span>
          </li>
        ))}
      </ol>
      <ProblemNote error={begin.error ?? withdraw.error} />
      {writes && newest && (
        <button
          type="button"
          className="jc-link"
          disabled={begin.isPending}
          onClick={() => begin.mutate({ of: newest.sha256, kind: "" })}
        >
          {say("write a new edition of it")}
        </button>
      )}
    </li>
  );
}
