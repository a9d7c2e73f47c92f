// The desk: the checklist, the evidence, the rule; one key judges and moves on.
import { useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { AnswerList } from "../filing/Filed";
import { setKeysOn, useHotkey, useKeysOn } from "../shared/keys";
import { Key, Stamp, standingClass, Tab } from "../shared/Marks";
import { Findings, ProblemNote, Skeleton } from "../shared/Notes";
import { FileLook } from "../shared/PdfView";
import { clockWords, Ribbon } from "../shared/Ribbon";
import { amount, day, dayOf, exactly, size, things } from "../shared/say";
import { useSession } from "../shared/session";
import { AnswersDesk } from "./AnswersDesk";
import { type CaseView, type OnDesk, path, useCase } from "./useCase";
import "./desk.css";
import "../filing/filing.css";

type Requirement = Schemas["Requirement"];
type Given = "met" | "wanting" | "in doubt" | "waived";

export function Desk() {
  const { reference = "" } = useParams();
  const desk = useCase(reference);
  const [whole, setWhole] = useState(false);
  const view = desk.view;
  if (desk.looked.error && !view)
    return (
      <main className="jc-page">
        <ProblemNote error={desk.looked.error} onAgain={() => desk.looked.refetch()} />
        <p>
          <Link to="/tray">Back to the in-tray</Link>
        </p>
      </main>
    );
  if (!view) return <Skeleton lines={10} />;
  const came = view.assessment.state === "Answers came back";
  return (
    <div className="desk">
      <DeskHead view={view} />
      {(desk.trouble !== null || null) && (
        <div className="desk-trouble">
          <ProblemNote error={desk.trouble} onAgain={desk.again} />
        </div>
      )}
      {came && !whole ? (
        <AnswersDesk desk={desk} view={view} onWhole={() => setWhole(true)} />
      ) : (
        <Checking desk={desk} view={view} onAnswers={came ? () => setWhole(false) : undefined} />
      )}
    </div>
  );
}

function DeskHead({ view }: { view: CaseView }) {
  const a = view.assessment;
  const latest = view.versions.at(-1);
  const words = a.clock ? clockWords(a.clock) : null;
  return (
    <header className="desk-head">
      <div>
        <p className="mono">
          <b>{view.reference}</b>{" "}
          <span className="second">
            edition {day(view.form.edition.slice(3))} · version {a.version}
          </span>
        </p>
        <h1>{a.title}</h1>
      </div>
      <Stamp state={a.state} />
      <p className="desk-who">
        {view.applicant}
        <br />
        filed {day(a.filing_day)}, {things(latest?.files.length ?? 0, "file")}
        {latest?.dossier.note && (
          <>
            <br />“{latest.dossier.note}”
          </>
        )}
      </p>
      {a.clock && words && (
        <p className="desk-clock" title={a.clock.why.join(" ")}>
          <Ribbon clock={a.clock} />
          <span>
            <b>{words[0]}</b> · {words[1]}
          </span>
        </p>
      )}
    </header>
  );
}

const KEYS: [Given, string, string][] = [
  ["met", "Met", "M"],
  ["wanting", "Wanting", "W"],
  ["in doubt", "Doubt", "D"],
  ["waived", "Waive", "V"],
];

function Checking({ desk, view, onAnswers }: { desk: OnDesk; view: CaseView; onAnswers?: () => void }) {
  const { reference } = view;
  const a = view.assessment;
  const navigate = useNavigate();
  const session = useSession();
  const role = session.data?.person?.role ?? "";
  const list = a.requirements;
  const firstOpen = list.find((r) => counts(r) && !r.given?.holds) ?? list[0];
  const [chosen, setChosen] = useState(firstOpen?.id ?? "");
  const [looking, setLooking] = useState<"document" | "answers">("document");
  const [file, setFile] = useState("");
  const [waiving, setWaiving] = useState(false);
  const [help, setHelp] = useState(false);
  const at = Math.max(
    0,
    list.findIndex((r) => r.id === chosen),
  );
  const requirement = list[at];
  const move = (name: string) => a.moves.find((m) => m.role === role && m.move === name);
  const mayJudge = !!move("judge")?.allowed;
  const mayBegin = !!move("begin checking")?.allowed;
  const keysOn = useKeysOn();

  function go(by: number) {
    const next = list[Math.max(0, Math.min(list.length - 1, at + by))];
    if (next) setChosen(next.id);
  }
  async function judge(standing: Given | null, reason = "") {
    if (!requirement || !mayJudge) return;
    setWaiving(false);
    const judged = requirement.id;
    if (standing === "met" || standing === "waived" || standing === "in doubt") {
      // on to the next at once: a hurried officer does not wait for the answer
      const after = [...list.slice(at + 1), ...list.slice(0, at)];
      const next = after.find((r) => counts(r) && !r.given?.holds);
      if (next) setChosen(next.id);
    }
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/judgements", {
          params: path(reference),
          body: { requirement: judged, standing, reason, seen },
        }),
      ),
    );
    if (!done) setChosen(judged);
  }
  const begin = () =>
    desk.move((seen) => ask(api.POST("/api/cases/{reference}/checking", { params: path(reference), body: { seen } })));
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("ArrowDown", () => go(1));
  useHotkey("ArrowUp", () => go(-1));
  useHotkey("m", () => judge("met"), mayJudge);
  useHotkey("w", () => judge("wanting"), mayJudge);
  useHotkey("d", () => judge("in doubt"), mayJudge);
  useHotkey("v", () => setWaiving(true), mayJudge);
  useHotkey("k", begin, mayBegin);
  useHotkey("l", () => navigate(`/desk/${reference}/letter`), a.points.length > 0 && !!move("send the letter"));
  useHotkey("?", () => setHelp((on) => !on));
  useEffect(() => {
    document.getElementById(`check-${chosen}`)?.scrollIntoView({ block: "nearest" });
    setWaiving(false);
    setFile("");
  }, [chosen]);

  const files = useMemo(() => view.versions.at(-1)?.files ?? [], [view]);
  const own = files.filter((f) => requirement?.files.some((x) => x.id === f.attachment.id));
  const shownFile = files.find((f) => f.attachment.id === file) ?? own[0];
  const evidence = looking === "document" && shownFile ? "document" : "answers";
  const groups: [string, string][] = [
    ...view.form.parts.map((p): [string, string] => [p.id, p.title]),
    ["documents", "Documents"],
    ["signature", "Promise and sign"],
    ["fees", "Fees"],
  ];
  const judged = list.filter((r) => counts(r) && r.given?.holds).length;
  const asked = list.filter(counts).length;

  return (
    <>
      <div className="desk-body">
        <nav className="desk-list" aria-label="Checklist">
          <h2>
            {onAnswers && (
              <button type="button" className="jc-link" onClick={onAnswers}>
                Answers
              </button>
            )}{" "}
            Checklist{" "}
            <span>
              {judged} of {asked} judged
            </span>
          </h2>
          {groups.map(([id, title]) => {
            const rows = list.filter((r) => r.group === id);
            if (rows.length === 0) return null;
            return (
              <section key={id}>
                <h3>{title}</h3>
                {rows.map((r) => (
                  <button
                    key={r.id}
                    id={`check-${r.id}`}
                    type="button"
                    className={`desk-check${r.id === chosen ? " chosen" : ""}${counts(r) ? "" : " quiet"}`}
                    aria-current={r.id === chosen || undefined}
                    onClick={() => setChosen(r.id)}
                  >
                    <Tab standing={r.standing} given={!!r.given?.holds} />
                    <span>
                      {r.title}
                      <small>{beneath(r)}</small>
                    </span>
                    {r.id === chosen && (
                      <kbd>
                        {at + 1}/{list.length}
                      </kbd>
                    )}
                  </button>
                ))}
              </section>
            );
          })}
        </nav>
        <main className="desk-evidence">
          <div className="desk-bar">
            {evidence === "document" && shownFile ? (
              <p>
                <b>{shownFile.attachment.name}</b>{" "}
                <span className="second">
                  {shownFile.said} · {size(shownFile.attachment.size)}
                </span>
              </p>
            ) : (
              <p>
                <b>What was answered</b> <span className="second">version {a.version}</span>
              </p>
            )}
            <div className="desk-switch" role="group" aria-label="What to look at">
              <button
                type="button"
                aria-pressed={evidence === "document"}
                disabled={!shownFile}
                onClick={() => setLooking("document")}
              >
                Document
              </button>
              <button type="button" aria-pressed={evidence === "answers"} onClick={() => setLooking("answers")}>
                Answers
              </button>
            </div>
          </div>
          {evidence === "document" && shownFile ? (
            <>
              {own.length > 1 && (
                <div className="desk-files">
                  {own.map((f) => (
                    <button
                      key={f.attachment.id}
                      type="button"
                      aria-pressed={f === shownFile}
                      onClick={() => setFile(f.attachment.id)}
                    >
                      {f.attachment.name}
                    </button>
                  ))}
                </div>
              )}
              <FileLook
                key={shownFile.attachment.sha256}
                url={`/api/cases/${reference}/files/${shownFile.attachment.sha256}`}
                file={shownFile}
                keys
              />
            </>
          ) : (
            <div className="desk-sheet" tabIndex={0} role="group" aria-label="What was answered">
              <AnswerList
                form={view.form}
                assessment={a}
                answers={view.versions.at(-1)?.dossier.answers ?? {}}
                mark={(place) => !!requirement?.places.some((p) => p.ref === place)}
              />
            </div>
          )}
          <p className="desk-keys">
            {keysOn ? (
              <>
                <Key>N</Key> <Key>B</Key> next, back <Key>,</Key> <Key>.</Key> sheet <Key>+</Key> <Key>-</Key> size{" "}
                <Key>?</Key> keys
              </>
            ) : (
              "The letter keys are off."
            )}{" "}
            <button type="button" className="jc-link" onClick={() => setKeysOn(!keysOn)}>
              {keysOn ? "switch the keys off" : "switch the keys on"}
            </button>
          </p>
        </main>
        <aside className="desk-rule" aria-label="The rule">
          {mayBegin && (
            <div className="desk-begin">
              <p>Nobody checks this case yet. With your word the checking begins and the case is yours.</p>
              <button type="button" className="jc-button wide" onClick={begin} disabled={desk.busy}>
                Begin checking <Key>K</Key>
              </button>
            </div>
          )}
          {requirement && (
            <Rule
              key={requirement.id}
              desk={desk}
              view={view}
              requirement={requirement}
              mayJudge={mayJudge}
              why={move("judge")?.why_not[0]?.text ?? "Your role reads and does not judge."}
              waiving={waiving}
              onWaive={() => setWaiving(true)}
              onJudge={judge}
            />
          )}
        </aside>
      </div>
      <DeskFoot desk={desk} view={view} role={role} />
      {help && <KeyHelp onClose={() => setHelp(false)} />}
    </>
  );
}

function counts(r: Requirement): boolean {
  return !["not asked", "not known yet"].includes(r.proposed) || !!r.given?.holds;
}

function beneath(r: Requirement): string {
  const findings = r.findings.filter((f) => f.weight !== "note").length;
  if (r.given && !r.given.holds) return `changed since it was judged ${r.given.standing}`;
  if (r.standing === "not asked" || r.standing === "not known yet") return r.because;
  if (r.kind === "document")
    return r.files.length === 0
      ? "nothing attached"
      : `${things(r.files.length, "file")} · ${findings ? things(findings, "finding") : "no findings"}`;
  if (r.given?.holds) return r.given.reason ? `${r.standing}: ${r.given.reason}` : r.standing;
  return r.proposed === "to read" ? "to read" : `${r.proposed}, says the machine`;
}

function Rule({
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
        {r.article && (
          <cite>
            {view.form.law} art. {r.article}
          </cite>
        )}
      </blockquote>
      <Findings findings={findings} />
      <p className="desk-because">
        <span className={`desk-standing ${standingClass(r.standing)}`}>{r.standing}</span>{" "}
        {r.given?.holds ? (
          <>
            given by {r.given.who}, <span title={exactly(r.given.at)}>{dayOf(r.given.at)}</span>
            {r.given.reason && `: ${r.given.reason}`}. The machine proposes {r.proposed}.
          </>
        ) : (
          <>proposed. {findings.some((f) => f.text === r.because) ? "" : r.because}</>
        )}
      </p>
      {r.given && !r.given.holds && (
        <p className="desk-was">
          It was judged {r.given.standing} by {r.given.who}; what was looked at has changed since.
        </p>
      )}
      {r.kind === "fee" && <FeeLines view={view} />}
      <div className="desk-judge" role="group" aria-label="Judge this requirement">
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
          take the judgement back
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
          <label htmlFor="waive-reason">Why is this not asked here?</label>
          <textarea id="waive-reason" value={reason} onChange={(e) => setReason(e.target.value)} autoFocus rows={2} />
          <button type="submit" className="jc-button small" disabled={reason.trim().length < 3}>
            Waive it
          </button>
        </form>
      )}
      {point && mayJudge && <PointText key={point.requirement} desk={desk} view={view} point={point} />}
    </>
  );
}

function FeeLines({ view }: { view: CaseView }) {
  return (
    <table className="desk-table">
      <thead>
        <tr>
          <th scope="col">Line</th>
          <th scope="col" className="num">
            EUR
          </th>
        </tr>
      </thead>
      <tbody>
        {view.assessment.fees.lines
          .filter((l) => l.state !== "not asked")
          .map((l) => (
            <tr key={l.id}>
              <td>
                {l.title}
                <small>{l.working}</small>
              </td>
              <td className="num mono">{l.amount !== null ? amount(l.amount) : `from ${amount(l.low)}`}</td>
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
          body: { requirement: point.requirement, text: words, seen },
        }),
      ),
    );
  }
  return (
    <div className="desk-point">
      <label htmlFor={`point-${point.no}`}>
        Point {point.no} of the letter {point.worded ? "" : "(proposed words)"}
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
          ? "not kept yet; it is kept when you leave the field"
          : point.worded
            ? "kept"
            : "as the machine proposes it"}
      </p>
    </div>
  );
}

export function DeskFoot({ desk, view, role }: { desk: OnDesk; view: CaseView; role: string }) {
  const a = view.assessment;
  const navigate = useNavigate();
  const accept = a.moves.find((m) => m.role === role && m.move === "accept as complete");
  const letter = a.moves.find((m) => m.role === role && m.move === "send the letter");
  const unjudged = a.requirements.filter((r) => counts(r) && !r.given?.holds).length;
  if (!accept || !letter || !["Being checked", "Answers came back"].includes(a.state))
    return (
      <footer className="desk-foot">
        <p>
          <b>{a.next_officer}</b> {a.clock?.said}
        </p>
        <Link to="/tray" className="jc-button plain">
          To the in-tray
        </Link>
      </footer>
    );
  const stops = accept.why_not[0];
  const doAccept = async () => {
    const done = await desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/acceptance", { params: path(view.reference), body: { seen } })),
    );
    if (done) window.scrollTo(0, 0);
  };
  return (
    <footer className="desk-foot">
      <p>
        <b>Correction letter</b> {things(a.points.length, "point")}
        {a.points.length > 0 && <span className="second"> · if sent today, answers are due {view.due_if_sent}</span>}
        <span className="second"> · not yet judged: {unjudged}</span>
        {a.points.length === 0 && stops && <span className="second"> · not yet complete: {stops.text}</span>}
      </p>
      <span className="desk-foot-keys">
        <button
          type="button"
          className="jc-button plain"
          disabled={a.points.length === 0}
          onClick={() => navigate(`/desk/${view.reference}/letter`)}
        >
          {view.assessment.rounds.length ? "Read the next letter" : "Read the letter"} <Key>L</Key>
        </button>
        <button
          type="button"
          className="jc-button"
          disabled={!accept.allowed || desk.busy}
          title={accept.why_not.map((w) => w.text).join(" ")}
          onClick={doAccept}
        >
          Accept as complete
        </button>
      </span>
    </footer>
  );
}

function KeyHelp({ onClose }: { onClose: () => void }) {
  useHotkey("Escape", onClose);
  return (
    <section className="desk-help" role="dialog" aria-label="Keys of the desk" aria-modal="false">
      <h2>Keys of the desk</h2>
      <dl>
        <dt>
          <Key>N</Key> <Key>B</Key> <Key>↑</Key> <Key>↓</Key>
        </dt>
        <dd>next, back in the checklist</dd>
        <dt>
          <Key>M</Key> <Key>W</Key> <Key>D</Key> <Key>V</Key>
        </dt>
        <dd>met, wanting, in doubt, waive</dd>
        <dt>
          <Key>,</Key> <Key>.</Key>
        </dt>
        <dd>sheet before, next sheet</dd>
        <dt>
          <Key>+</Key> <Key>-</Key>
        </dt>
        <dd>larger, smaller</dd>
        <dt>
          <Key>K</Key> <Key>L</Key>
        </dt>
        <dd>begin checking, read the letter</dd>
        <dt>
          <Key>F</Key>
        </dt>
        <dd>find a case</dd>
      </dl>
      <button type="button" className="jc-button small" onClick={onClose}>
        Close
      </button>
    </section>
  );
}
