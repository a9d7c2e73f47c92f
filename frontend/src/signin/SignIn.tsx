// The door: what can be applied for, and in the demo one click for each person.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { DoorKinds } from "../filing/FindKind";
import { LanguageSwitch } from "../filing/LanguageSwitch";
import { Mark } from "../shared/Frame";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { wayInWaits } from "../wayin/kept";
import { Passwords } from "./Passwords";
import "./signin.css";

const ROLES: [string, string, string][] = [
  ["applicant", say("On this side of the counter"), say("prepares, files, pays, answers")],
  ["officer", say("On the other side"), say("receives, checks, asks, accepts")],
  ["lead", say("Leads the officers"), say("also assigns and refunds")],
  ["reviewer", say("Reviews after the intake"), ""],
  ["rule-keeper", say("Keeps the rulebooks"), ""],
  ["auditor", say("Reads everything, changes nothing"), ""],
];

export function SignIn({ session }: { session: Schemas["SessionOut"] }) {
  const queries = useQueryClient();
  const enter = useMutation({
    mutationFn: (person: string) => ask(api.POST("/api/session/by-click", { body: { person } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <main className="jc-door" id="main">
      <section className="jc-door-left">
        <p className="jc-door-brand">
          <Mark /> {say("Jolly Clerk")}
        </p>
        <h1>{session.office}</h1>
        <LanguageSwitch />
        <p>
          {say(
            "One door for every application. You see before you file what the officer will see, and afterwards who has it.",
          )}
        </p>
        <h2>{say("What you can apply for")}</h2>
        <DoorKinds />
        <p>
          <Link to="/check">{say("Check whether a permit or licence is real")}</Link>
          <br />
          <Link to="/register">{say("Look into the public register")}</Link>
        </p>
        <h2>{say("How it goes")}</h2>
        <ol className="jc-door-way">
          <li>
            <b>{say("Prepare.")}</b>{" "}
            {say("Answer what is asked; the price and what to bring stand beside the form all the while.")}
          </li>
          <li>
            <b>{say("File and pay.")}</b> {say("You get a reference and a receipt that lists every file.")}
          </li>
          <li>
            <b>{say("Follow.")}</b> {say("You see who has it, until when, and what comes next.")}
          </li>
          <li>
            <b>{say("Answer.")}</b>{" "}
            {say("If something is missing, one letter says all of it; you answer point by point.")}
          </li>
        </ol>
      </section>
      <section className="jc-door-right">
        <h2>{session.demo ? say("Come in as") : say("Sign in")}</h2>
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
