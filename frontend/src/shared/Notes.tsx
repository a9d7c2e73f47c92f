// Designed states: problems with a way on, skeletons, findings.
import { Skeleton as Bone } from "@mantine/core";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { problemOf } from "../api/client";
import { say } from "./text";
import "./notes.css";

/** A problem, in words, with a way on. */
export function ProblemNote({
  error,
  onAgain,
  children,
}: {
  error: unknown;
  onAgain?: () => void;
  children?: ReactNode;
}) {
  if (!error) return null;
  const problem = problemOf(error);
  return (
    <div className="jc-problem" role="alert">
      <b>{problem.title.endsWith(".") ? problem.title.slice(0, -1) : problem.title}.</b>{" "}
      {problem.detail !== problem.title && problem.detail}
      {problem.reasons && problem.reasons.length > 1 && (
        <ul>
          {problem.reasons.map((r) => (
            <li key={`${r.place}${r.text}`}>{r.text}</li>
          ))}
        </ul>
      )}
      {problem.reference && <Link to={`/cases/${problem.reference}`}>{say("Open the case")}</Link>}
      {onAgain && (
        <button type="button" className="jc-link" onClick={onAgain}>
          {problem.status === 409 ? say("Show the case as it is now") : say("Try again")}
        </button>
      )}
      {children}
    </div>
  );
}

export function Skeleton({ lines }: { lines: number }) {
  return (
    <div className="jc-skeleton" role="status" aria-label={say("Loading")}>
      {Array.from({ length: lines }, (_, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: bones have no names
        <Bone key={n} height={18} width={`${92 - ((n * 17) % 40)}%`} mt={14} />
      ))}
    </div>
  );
}

const WEIGHT: Record<string, string> = { fault: say("Fault"), look: say("Look"), note: say("Note") };

export function Findings({ findings }: { findings: Schemas["Finding"][] }) {
  if (findings.length === 0) return null;
  return (
    <ul className="jc-findings">
      {findings.map((f) => (
        <li key={`${f.file}${f.page}${f.text}`} className={f.weight}>
          <b>{WEIGHT[f.weight]}</b> {f.text}
        </li>
      ))}
    </ul>
  );
}
