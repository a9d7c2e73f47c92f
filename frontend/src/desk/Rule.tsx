// One requirement: its law, what the machine found, the agreement table, the judgement, the words of its point.
import { Fragment, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskedOf } from "../filing/Issuers";
import { useHotkey } from "../shared/keys";
import { Key, standingClass } from "../shared/Marks";
import { Findings } from "../shared/Notes";
import { amount, dayOf, exactly } from "../shared/say";
import { say } from "../shared/text";
import { AlikeCases, AlikeHint } from "./AlikeCases";
import { AlikePages } from "./AlikePages";
import type { Given, Requirement } from "./checks";
import { KEY } from "./deskKeys";
import { FeeLines } from "./FeeLines";
import { ReasonLine } from "./ReasonLine";
import type { Side } from "./TwoFiles";
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
  asking,
  onAsk,
  onJudge,
  onCompare,
}: {
  desk: OnDesk;
  view: CaseView;
  requirement: Requirement;
  mayJudge: boolean;
  why: string;
  /** The standing for which a reason is asked. */
  asking: Given | "";
  onAsk: (standing: Given | "") => void;
  onJudge: (standing: Given | null, reason?: string) => void;
  onCompare: (two: [Side, Side]) => void;
}) {
  const point = view.assessment.points.find((p) => p.requirement === r.id);
  const files = view.versions.at(-1)?.files ?? [];
  const general = files.filter((f) => r.files.some((x) => x.id === f.attachment.id)).flatMap((f) => f.findings);
  const findings = r.findings.length > 0 ? r.findings : general;
  return (
    <>
      <div className="desk-rule-says" tabIndex={0} role="group" aria-label={r.title}>
        <AlikeHint reference={view.reference} />
        <h2>{r.title}</h2>
        <blockquote className="desk-law">
          {r.says}{" "}
          {r.article && <cite>{say("{{law}} art. {{article}}", { law: view.form.law, article: r.article })}</cite>}
        </blockquote>
        <Findings findings={findings} />
        <AlikePages view={view} requirement={r} onCompare={onCompare} />
        {tablesOf(view, r).map((table) => (
          <Agreement key={table.id} table={table} />
        ))}
        <p className="desk-because">
          <span className={`desk-standing ${standingClass(r.standing)}${r.overruled ? " overruled" : ""}`}>
            {r.standing}
          </span>{" "}
          {r.given?.holds ? (
            <>
              {say("given by {{who}},", { who: r.given.who })}{" "}
              <span title={exactly(r.given.at)}>{dayOf(r.given.at)}</span>
              {r.given.reason && `: “${r.given.reason}”`}
              {say(". The machine proposes {{proposed}}.", { proposed: r.proposed })}
              {r.overruled && (
                <span className="desk-overruled">
                  {say("Given against the machine, which said: {{said}}", { said: r.given.overrules })}
                </span>
              )}
            </>
          ) : (
            <>
              {say("proposed.")} {findings.some((f) => f.text === r.because) ? "" : r.because}
            </>
          )}
        </p>
        {r.kind === "document" && <AskedOf of={view.reference} files={files.length} place={r.id} />}
        {r.given && !r.given.holds && (
          <p className="desk-was">
            {say("It was judged {{standing}} by {{who}}; what was looked at has changed since.", {
              standing: r.given.standing,
              who: r.given.who,
            })}
          </p>
        )}
        <ByEach view={view} requirement={r} />
        {r.kind === "fee" && <FeeLines desk={desk} view={view} />}
        <Before view={view} requirement={r} />
        <AlikeCases reference={view.reference} />
      </div>
      <div className="desk-rule-judge">
        <div className="desk-judge" role="group" aria-label={say("Judge this requirement")}>
          {KEYS.map(([standing, label, key]) => (
            <button
              key={standing}
              type="button"
              className={standingClass(standing)}
              aria-pressed={!!r.given?.holds && r.given.standing === standing}
              disabled={!mayJudge}
              onClick={() => (standing === "waived" ? onAsk(standing) : onJudge(standing))}
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
        {asking && (
          <ReasonLine
            key={asking}
            against={asking === "met" ? r.because : ""}
            onGive={(reason) => onJudge(asking, reason)}
            onClose={() => onAsk("")}
          />
        )}
        {point && mayJudge && <PointText key={point.requirement} desk={desk} view={view} point={point} />}
      </div>
    </>
  );
}

/** What is declared beside what was found, and what is due at filing by each, where the fee hangs on it. */
function ByEach({ view, requirement: r }: { view: CaseView; requirement: Requirement }) {
  const own = view.counted.filter((c) => c.requirement === r.id || r.kind === "fee");
  if (own.length === 0) return null;
  return (
    <table className="desk-table">
      <thead>
        <tr>
          <th scope="col">{say("The fee hangs on it")}</th>
          <th scope="col" className="num">
            {say("due at filing")}
          </th>
        </tr>
      </thead>
      <tbody>
        {own.map((c) => (
          <Fragment key={c.requirement}>
            <tr>
              <td>{say("{{title}} as declared: {{said}}", { title: c.title, said: c.declared })}</td>
              <td className="num mono">{amount(c.due_declared)}</td>
            </tr>
            <tr className="odd">
              <td>{say("as found: {{said}} ({{source}})", { said: c.found, source: c.source })}</td>
              <td className="num mono">{amount(c.due_found)}</td>
            </tr>
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

/** What happened to a requirement before: judged, asked, answered. It fills the column where there is little to say. */
function Before({ view, requirement: r }: { view: CaseView; requirement: Requirement }) {
  const told = view.story.filter((m) => m.about.includes(r.id));
  if (told.length === 0) return null;
  return (
    <section className="desk-before" aria-label={say("Before")}>
      <h3>{say("Before")}</h3>
      <ol>
        {told.map((m) => (
          <li key={m.no}>
            <span title={exactly(m.at)}>{dayOf(m.at)}</span> {m.text}
          </li>
        ))}
      </ol>
    </section>
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
export function PointText({
  desk,
  view,
  point,
  unkept,
}: {
  desk: OnDesk;
  view: CaseView;
  point: Schemas["PointToAsk"];
  /** Where words that are not kept yet are named, each with what keeps them. */
  unkept?: Map<string, () => Promise<boolean>>;
}) {
  const [text, setText] = useState(point.text);
  const offers = view.offers[point.requirement] ?? [];
  const changed = text.trim() !== point.text;
  async function keep(words: string): Promise<boolean> {
    if (!words.trim()) setText(point.text); // emptied: as it was, which is what would be sent
    if (!words.trim() || words.trim() === point.text) return true;
    const kept = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/words", {
          params: path(view.reference),
          headers: seen,
          body: { requirement: [point.requirement, ...point.also].join("+"), text: words },
        }),
      ),
    );
    return kept !== null;
  }
  useEffect(() => {
    if (changed) unkept?.set(point.requirement, () => keep(text));
    else unkept?.delete(point.requirement);
  });
  const take = (words: string) => {
    setText(words);
    keep(words);
  };
  return (
    <div className="desk-point">
      {(unkept ? [] : offers.slice(0, 9)).map((o, n) => (
        <ReasonKey key={o.id} no={n + 1} onPress={() => take(o.text)} />
      ))}
      <label htmlFor={`point-${point.no}`}>
        {point.worded
          ? say("Point {{no}} of the letter", { no: point.no })
          : say("Point {{no}} of the letter (proposed words)", { no: point.no })}{" "}
        {!unkept && <Key>{KEY.words.toUpperCase()}</Key>}
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
          {offers.map((o, n) => (
            <button key={o.id} type="button" onClick={() => take(o.text)}>
              {o.title} {n < 9 && !unkept && <Key>{n + 1}</Key>}
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

/** A reason of the catalogue by its number. */
function ReasonKey({ no, onPress }: { no: number; onPress: () => void }) {
  useHotkey(String(no), onPress);
  return null;
}
