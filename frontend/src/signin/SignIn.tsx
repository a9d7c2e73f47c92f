// The door: what can be applied for, and in the demo one click for each person.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { KindCards } from "../filing/KindCards";
import { Mark } from "../shared/Frame";
import { ProblemNote } from "../shared/Notes";
import { wayInWaits } from "../wayin/kept";
import { Passwords } from "./Passwords";

const ROLES: [string, string, string][] = [
  ["applicant", "On this side of the counter", "prepares, files, pays, answers"],
  ["officer", "On the other side", "receives, checks, asks, accepts"],
  ["lead", "Leads the officers", "also assigns and refunds"],
  ["reviewer", "Reviews after the intake", ""],
  ["rule-keeper", "Keeps the rulebooks", ""],
  ["auditor", "Reads everything, changes nothing", ""],
];

export function SignIn({ session }: { session: Schemas["SessionOut"] }) {
  const queries = useQueryClient();
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: () => ask(api.GET("/api/kinds")) });
  const enter = useMutation({
    mutationFn: (person: string) => ask(api.POST("/api/session/by-click", { body: { person } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <main className="jc-door" id="main">
      <section className="jc-door-left">
        <p className="jc-door-brand">
          <Mark /> Jolly Clerk
        </p>
        <h1>{session.office}</h1>
        <p>
          One door for every application. You see before you file what the officer will see, and afterwards who has it.
        </p>
        <h2>What you can apply for</h2>
        <KindCards
          kinds={kinds.data ?? []}
          className="jc-door-kinds"
          level="h3"
          foot={(kind) =>
            kind.has_way_in && (
              <p>
                <Link
                  to={`/way-in/${kind.kind}`}
                  aria-label={`Do I need it, what does it cost, what do I bring? ${kind.title}`}
                >
                  Do I need it, what does it cost, what do I bring?
                </Link>
              </p>
            )
          }
        />
        <p>
          <Link to="/check">Check whether a permit is real</Link>
        </p>
        <h2>How it goes</h2>
        <ol className="jc-door-way">
          <li>
            <b>Prepare.</b> Answer what is asked; the price and what to bring stand beside the form all the while.
          </li>
          <li>
            <b>File and pay.</b> You get a reference and a receipt that lists every file.
          </li>
          <li>
            <b>Follow.</b> You see who has it, until when, and what comes next.
          </li>
          <li>
            <b>Answer.</b> If something is missing, one letter says all of it; you answer point by point.
          </li>
        </ol>
      </section>
      <section className="jc-door-right">
        <h2>{session.demo ? "Come in as" : "Sign in"}</h2>
        {!session.demo && <Passwords first={wayInWaits()} />}
        <ProblemNote error={enter.error} />
        {ROLES.filter(([role]) => session.people.some((p) => p.role === role)).map(([role, title, does]) => (
          <div key={role} className="jc-door-role">
            <h3>
              {title} <small>{does}</small>
            </h3>
            <div className="jc-door-people">
              {session.people
                .filter((p) => p.role === role)
                .map((p) => (
                  <button key={p.id} type="button" onClick={() => enter.mutate(p.id)} disabled={enter.isPending}>
                    <b>{p.name}</b> <span>{p.role}</span>
                  </button>
                ))}
            </div>
          </div>
        ))}
      </section>
    </main>
  );
}
