// What the way in says, with its reason; and where nothing is to be filed here, the letter that says so.
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { useWayInLetter } from "./letter";
import "./wayin.css";

export function Verdict({
  decided,
  kind,
  law,
  answers,
  children,
}: {
  decided: Schemas["WayIn"];
  kind: string;
  law: string;
  answers: unknown;
  children?: ReactNode;
}) {
  const letter = useWayInLetter(kind);
  return (
    <section className={`way-in-says ${decided.then.replaceAll(" ", "-")}`} role="status" id="way-in">
      <h2>{decided.title}</h2>
      <p>
        {decided.because} <cite>{say("{{law}} art. {{article}}", { law, article: decided.article })}</cite>
      </p>
      {decided.stops && (
        <p>
          <button
            type="button"
            className="jc-button plain"
            onClick={() => letter.mutate(answers)}
            disabled={letter.isPending}
          >
            {say("Take the letter that says so (PDF)")}
          </button>
        </p>
      )}
      <ProblemNote error={letter.error} />
      {children}
    </section>
  );
}
