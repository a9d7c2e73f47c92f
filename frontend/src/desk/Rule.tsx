// One requirement: its law, what the machine found, the agreement table, the judgement, the words of its point.
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Key, standingClass } from "../shared/Marks";
import { Findings } from "../shared/Notes";
import { dayOf, exactly } from "../shared/say";
import { say } from "../shared/text";
import type { Given, Requirement } from "./checks";
import { FeeLines } from "./FeeLines";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./rule.css";

const KEYS: [Given, string, string][] = [
  ["met", say("Met"), "M"],
  ["wanting", say("Wanting"), "W"],
  ["in doubt", say("Doubt"), "D"],
  ["waived", say("Waive"), "V"],
];

/** The agreement tables that bear on a requirement: its own, or those that look into its files. */
export function tablesOf(view: CaseView, r: Requirement): Schemas["AgreementView"][] {
  const all = new Map(view.assessment.requirements.map((other) => [other.id, other.table]));
  return r.tables.map((id) => all.get(id)).filter((t): t is Schemas["AgreementView"] => !!t);
}

export function Rule({
  desk,
  view,
  requirement: r,
  mayJudge,
  why,
  waiving,
  onWaive,
  onJudge,
}: {
  desk: OnDesk;
  view: CaseView;
  requirement: Requirement;
  mayJudge: boolean;
  why: string;
  waiving: boolean;
  onWaive: () => void;
  onJudge: (standing: Given | null, reason?: string) => void;
}) {
  const [reason, setReason] = useState("");
  const point = view.assessment.points.find((p) => p.requirement === r.id);
  const files = view.versions.at(-1)?.files ?? [];
  const general = files.filter((f) => r.files.some((x) => x.id === f.attachment.id)).flatMap((f) => f.findings);
  const findings = r.findings.length > 0 ? r.findings : general;
  return (
    <>
      <h2>{r.title}</h2>
      <blockquote className="desk-law">
        {r.says}{" "}
        {r.article && <cite>{say("{{law}} art. {{article}}", { law: view.form.law, article: r.article })}</cite>}
      </blockquote>
      <Findings findings={findings} />
      {tablesOf(view, r).map((table) => (
        <Agreement key={table.id} table={table} />
      ))}
      <p className="desk-because">
        <span className={`desk-standing ${standingClass(r.standing)}`}>{r.standing}</span>{" "}
        {r.given?.holds ? (
          <>
            {say("given by {{who}},", { who: r.given.who })}{" "}
            <span title={exactly(r.given.at)}>{dayOf(r.given.at)}</span>
            {r.given.reason && `: ${r.given.reason}`}
            {say(". The machine proposes {{proposed}}.", { proposed: r.proposed })}
          </>
        ) : (
          <>
            {say("proposed.")} {findings.some((f) => f.text === r.because) ? "" : r.because}
          </>
        )}
      </p>
      {r.given && !r.given.holds && (
        <p className="desk-was">
          {say("It was judged {{standing}} by {{who}}; what was looked at has changed since.", {
            standing: r.given.standing,
            who: r.given.who,
          })}
        </p>
      )}
      {r.kind === "fee" && <FeeLines desk={desk} view={view} />}
      <div className="desk-judge" role="group" aria-label={say("Judge this requirement")}>
        {KEYS.map(([standing, label, key]) => (
          <button
            key={standing}
            type="button"
            className={standingClass(standing)}
            aria-pressed={!!r.given?.holds && r.given.standing === standing}
            disabled={!mayJudge}
            onClick={() => (standing === "waived" ? onWaive() : onJudge(standing))}
          >
            {label} <Key>{key}</Key>
          </button>
        ))}
      </div>
      {!mayJudge && <p className="second">{why}</p>}
      {mayJudge && r.given?.holds && (
        <button type="button" className="jc-link quiet" onClick={() => onJudge(null)}>
          {say("take the judgement back")}
        </button>
      )}
      {waiving && (
        <form
          className="desk-waive"
          onSubmit={(e) => {
            e.preventDefault();
            onJudge("waived", reason);
          }}
        >
          <label htmlFor="waive-reason">{say("Why is this not asked here?")}</label>
          <textarea id="waive-reason" value={reason} onChange={(e) => setReason(e.target.value)} autoFocus rows={2} />
          <button type="submit" className="jc-button small" disabled={reason.trim().length < 3}>
            {say("Waive it")}
          </button>
        </form>
      )}
      {point && mayJudge && <PointText key={point.requirement} desk={desk} view={view} point={point} />}
    </>
  );
}

function Agreement({ table }: { table: Schemas["AgreementView"] }) {
  return (
    <table className="desk-table agreement">
      <thead>
        <tr>
          <th scope="col">{say("Where it says")}</th>
          <th scope="col">{table.title}</th>
        </tr>
      </thead>
      <tbody>
        {table.statements.map((s) => (
          <tr key={s.place} className={s.odd ? "odd" : s.state === "stated" ? "" : "unsaid"}>
            <td>{s.label}</td>
            <td className="mono">
              {s.said}
              {s.odd && <span className="jc-hidden"> {say("(the odd one out)")}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The words of a point: proposed by the machine, offered by the catalogue, kept when they are the officer's own. */
export function PointText({ desk, view, point }: { desk: OnDesk; view: CaseView; point: Schemas["PointToAsk"] }) {
  const [text, setText] = useState(point.text);
  const offers = view.offers[point.requirement] ?? [];
  const changed = text.trim() !== point.text;
  async function keep(words: string) {
    if (!words.trim() || words.trim() === point.text) return;
    await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/words", {
          params: path(view.reference),
          headers: seen,
          body: { requirement: [point.requirement, ...point.also].join("+"), text: words },
        }),
      ),
    );
  }
  return (
    <div className="desk-point">
      <label htmlFor={`point-${point.no}`}>
        {point.worded
          ? say("Point {{no}} of the letter", { no: point.no })
          : say("Point {{no}} of the letter (proposed words)", { no: point.no })}
      </label>
      <textarea
        id={`point-${point.no}`}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => keep(text)}
        rows={5}
      />
      {offers.length > 0 && (
        <p className="desk-offers">
          {offers.map((o) => (
            <button
              key={o.id}
              type="button"
              onClick={() => {
                setText(o.text);
                keep(o.text);
              }}
            >
              {o.title}
            </button>
          ))}
        </p>
      )}
      <p className="second" role="status">
        {changed
          ? say("Not saved yet; saved when you leave the field.")
          : point.worded
            ? say("kept")
            : say("as the machine proposes it")}
      </p>
    </div>
  );
}
