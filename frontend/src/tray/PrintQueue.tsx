// The print queue: letters of those whom a letter reaches on paper, printed as one PDF and ticked as posted.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { exactly, since } from "../shared/say";
import { say, things } from "../shared/text";
import "../people/people.css";

export function PrintQueue() {
  const queries = useQueryClient();
  const told = useQuery({ queryKey: ["print-queue"], queryFn: () => ask(api.GET("/api/print-queue")) });
  const done = useMutation({
    mutationFn: (keys: string[]) => ask(api.POST("/api/print-queue/printed", { body: { keys } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const letters = told.data ?? [];
  return (
    <main className="jc-page people">
      <h1>{say("Letters to print")}</h1>
      <p className="second">
        {say(
          "Of those whom a letter reaches on paper. The clock of a letter counts from the working day on which it leaves by post: print it, post it, then tick it.",
        )}
      </p>
      <ProblemNote error={told.error ?? done.error} />
      {told.isPending && <Skeleton lines={4} />}
      {told.data && letters.length === 0 && <p>{say("Nothing waits to be printed.")}</p>}
      {letters.length > 0 && (
        <p>
          <a className="jc-button" href="/api/print-queue/pdf" target="_blank" rel="noreferrer">
            {say("Print {{letters}} as one PDF", { letters: things(letters.length, "letter") })}
          </a>{" "}
          <AskFirst
            question={say("Were all of them printed and posted today?")}
            yes={say("Yes, tick them all")}
            onYes={() => done.mutate(letters.map((l) => l.key))}
            className="jc-button plain"
          >
            {say("All printed and posted")}
          </AskFirst>
        </p>
      )}
      <ul className="print-queue">
        {letters.map((l) => (
          <li key={l.key}>
            <Link to={`/desk/${l.reference}`} className="mono">
              {l.reference}
            </Link>{" "}
            <b>{l.subject}</b>{" "}
            <span className="second">
              {l.to}, <time title={exactly(l.put_at)}>{since(l.put_at)}</time>
            </span>{" "}
            <button type="button" className="jc-link" disabled={done.isPending} onClick={() => done.mutate([l.key])}>
              {say("printed and posted")}
              <span className="jc-hidden">: {l.reference}</span>
            </button>
          </li>
        ))}
      </ul>
    </main>
  );
}
