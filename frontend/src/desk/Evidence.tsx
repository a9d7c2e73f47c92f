// The evidence of a requirement brought to the eye: its file, the answers with it marked, the account; or what lies beside.
import { memo, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { AnswerList } from "../filing/Filed";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { FileLook, type PageBox, usePaging } from "../shared/PdfView";
import { dayOf, size } from "../shared/say";
import { say } from "../shared/text";
import { Account } from "./Account";
import { History, Registers, Talk } from "./Beside";
import type { Requirement } from "./checks";
import { KEY } from "./deskKeys";
import type { OnScreen } from "./onScreen";
import { Papers } from "./Papers";
import { papersOf } from "./papersOf";
import { tablesOf } from "./Rule";
import { type Side, TwoFiles } from "./TwoFiles";
import { type CaseView, fileUrl, type OnDesk } from "./useCase";
import "./checklist.css";
import "./desk.css";

export type Looking = "document" | "answers" | "account" | "registers" | "talk" | "papers" | "history";
const SWITCH: [Looking, string, string][] = [
  ["document", say("Document"), KEY.document],
  ["answers", say("Answers"), KEY.answers],
  ["account", say("Account"), KEY.account],
  ["registers", say("Registers"), KEY.registers],
  ["talk", say("Talk"), KEY.talk],
  ["papers", say("Papers"), KEY.papers],
  ["history", say("History"), ""],
];

const NOTHING: PageBox[] = [];

/** What is looked at for a requirement unless something else is asked for. */
const ownOf = (r: Requirement | undefined, file: unknown): Looking =>
  r?.kind === "fee" ? "account" : file ? "document" : "answers";

/** It is made anew only when what it shows is another one: the mark moves on at once, the evidence follows. */
export const Evidence = memo(function Evidence({
  move,
  view,
  requirement,
  note,
  looking,
  onLook,
  compare,
  short,
}: {
  move: OnDesk["move"];
  view: CaseView;
  requirement?: Requirement;
  /** What is on the screen is noted, by its name. */
  note: OnScreen["note"];
  /** What was asked for instead of its own evidence; it lasts as long as the mark stays. */
  looking: Looking | "";
  onLook: (change: (now: Looking | "") => Looking | "") => void;
  /** Two papers that somebody wants to see beside each other. */
  compare?: [Side, Side] | null;
  /** A table stands above, so that there is less room. */
  short?: boolean;
}) {
  const { reference } = view;
  const [file, setFile] = useState("");
  const [found, setFound] = useState<PageBox[]>(NOTHING); // words that were looked for, in the file that is shown
  const [two, setTwo] = useState<[Side, Side] | null>(null);
  const id = requirement?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another requirement has files of its own
  useEffect(() => {
    setFile("");
    setFound(NOTHING);
    setTwo(null);
  }, [id]);
  useEffect(() => {
    if (compare) setTwo(compare);
  }, [compare]);
  const own = useMemo(() => {
    const files = view.versions.at(-1)?.files ?? [];
    const its = files.filter((f) => requirement?.files.some((x) => x.id === f.attachment.id));
    return its.reverse(); // the newest first
  }, [view, requirement]);
  const all = useMemo(() => papersOf(view), [view]);
  const other = own.some((f) => f.attachment.id === file) ? undefined : all.find((p) => p.file.attachment.id === file);
  const shown = other?.file ?? own.find((f) => f.attachment.id === file) ?? own[0];
  const evidence = looking === "document" && !shown ? "answers" : looking || ownOf(requirement, shown);
  /** To something else that is looked at; two that were compared are put away. */
  const look = (change: (now: Looking | "") => Looking | "") => {
    setTwo(null);
    onLook(change);
  };
  const toggle = (to: Looking) => look((now) => (now === to ? "" : to));
  useHotkey(KEY.document, () => look(() => "document"), !!shown);
  useHotkey(KEY.answers, () => look(() => "answers"));
  useHotkey(KEY.account, () => toggle("account"));
  useHotkey(KEY.registers, () => toggle("registers"));
  useHotkey(KEY.talk, () => toggle("talk"));
  useHotkey(KEY.papers, () => toggle("papers"));
  const boxes = useMemo(() => {
    if (found.length > 0) return found;
    const told = [...(requirement?.findings ?? []), ...(shown?.findings ?? [])];
    const seen = told.filter((f, n) => told.findIndex((other) => other.text === f.text) === n);
    const findings = seen
      .filter((f) => f.file === shown?.attachment.id && f.box.length === 4 && f.weight !== "note")
      .map((f) => ({ page: f.page, box: f.box, label: f.text, odd: true }));
    const statements = requirement ? tablesOf(view, requirement).flatMap((t) => t.statements) : [];
    const stated = statements
      .filter((s) => s.file === shown?.attachment.id && s.box.length === 4)
      .map((s) => ({ page: s.page, box: s.box, label: s.said, odd: s.odd }));
    return [...stated, ...findings];
  }, [view, requirement, shown, found]);
  /** Show a paper of the case, with the words that were looked for in it. */
  const show = (attachment: string, places: PageBox[] = NOTHING) => {
    setFile(attachment);
    setFound(places);
    look(() => "document");
  };
  const missing = requirement
    ? tablesOf(view, requirement).filter((t) =>
        t.statements.some((s) => s.file === shown?.attachment.id && s.state === "not found"),
      )
    : [];
  return (
    <div className={`desk-look${short ? " short" : ""}`}>
      <div className="desk-bar">
        <p>
          {two ? (
            <b>{say("Two papers compared.")}</b>
          ) : evidence === "document" && shown ? (
            <>
              <b>{shown.attachment.name}</b>{" "}
              <span className="second">
                {shown.said} · {size(shown.attachment.size)}
              </span>
            </>
          ) : (
            <>
              <b>{SWITCH.find(([id]) => id === evidence)?.[1]}</b>{" "}
              <span className="second">{say("version {{version}}", { version: view.assessment.version })}</span>
            </>
          )}
        </p>
        <div className="desk-switch" role="group" aria-label={say("What to look at")}>
          {SWITCH.map(([id, label, key]) => (
            <button
              key={id}
              type="button"
              aria-pressed={!two && evidence === id}
              disabled={id === "document" && !shown}
              onClick={() => look(() => id)}
            >
              {label} {key && <Key>{key.toUpperCase()}</Key>}
              {id === "talk" && view.messages.some((m) => !m.office && !m.read_at) && (
                <b className="desk-dot"> {say("new")}</b>
              )}
            </button>
          ))}
        </div>
      </div>
      {two ? (
        <>
          <p className="desk-other">
            <button type="button" className="jc-link" onClick={() => setTwo(null)}>
              {say("Back to the evidence")}
            </button>
          </p>
          <TwoFiles first={two[0]} second={two[1]} keys />
        </>
      ) : evidence === "document" && shown ? (
        <>
          {(other || found.length > 0) && (
            <p className="desk-other">
              {other
                ? say("{{slot}}, version {{no}}: not the evidence of this requirement.", {
                    slot: other.file.slot_title,
                    no: other.version.no,
                  })
                : say("The words that were looked for are marked.")}{" "}
              <button type="button" className="jc-link" onClick={() => look(() => "papers")}>
                {say("All papers")} <Key>{KEY.papers}</Key>
              </button>{" "}
              <button
                type="button"
                className="jc-link"
                onClick={() => {
                  setFile("");
                  setFound(NOTHING);
                }}
              >
                {say("Back to the evidence")}
              </button>
            </p>
          )}
          {own.length > 1 && !other && (
            <div className="desk-files">
              {own.map((f, n) => (
                <button
                  key={f.attachment.id}
                  type="button"
                  aria-pressed={f === shown}
                  onClick={() => setFile(f.attachment.id)}
                >
                  {f.attachment.name} {n === 0 && <small>{say("newest")}</small>}
                </button>
              ))}
            </div>
          )}
          {missing.map((t) => (
            <p key={t.id} className="desk-not-found">
              {say("Not found in this file: {{what}}.", { what: t.title })}
            </p>
          ))}
          <FileLook
            key={shown.attachment.sha256}
            url={fileUrl(reference, shown)}
            file={shown}
            keys
            boxes={boxes}
            onSeen={(page) => note(`${shown.attachment.id} ${page}`)}
          />
        </>
      ) : evidence === "account" ? (
        <Account view={view} />
      ) : evidence === "registers" ? (
        <Registers move={move} view={view} />
      ) : evidence === "talk" ? (
        <Talk view={view} />
      ) : evidence === "papers" ? (
        <Papers view={view} onShow={show} onCompare={setTwo} />
      ) : evidence === "history" ? (
        <History view={view} />
      ) : (
        <Answers view={view} requirement={requirement} note={note} />
      )}
    </div>
  );
});

/** The answers, with what a requirement looks at marked and in sight; a part that was in sight was seen. */
function Answers({
  view,
  requirement: r,
  note,
}: {
  view: CaseView;
  requirement?: Requirement;
  note: OnScreen["note"];
}) {
  const room = useRef<HTMLDivElement>(null);
  usePaging(room, true);
  const id = r?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is marked changes with the requirement
  useEffect(() => {
    room.current?.querySelector(".marked")?.scrollIntoView({ block: "center" });
  }, [id]);
  useEffect(() => {
    const watch = new IntersectionObserver(
      (entries) => {
        for (const e of entries) if (e.isIntersecting) note(e.target.getAttribute("data-part") ?? "");
      },
      { root: room.current },
    );
    for (const part of room.current?.querySelectorAll("[data-part]") ?? []) watch.observe(part);
    return () => watch.disconnect();
  }, [note]);
  const refs = r?.places.map((p) => p.ref) ?? [];
  const marks = (place: string) => refs.some((ref) => place === ref || place.startsWith(`${ref}.`));
  const latest = view.versions.at(-1)?.dossier;
  return (
    <div ref={room} className="desk-sheet" tabIndex={0} role="group" aria-label={say("What was answered")}>
      <AnswerList form={view.form} assessment={view.assessment} answers={latest?.answers ?? {}} mark={marks} />
      <Declarations view={view} marks={marks} />
    </div>
  );
}

/** What was declared and signed, in its words. */
function Declarations({ view, marks }: { view: CaseView; marks: (place: string) => boolean }) {
  const dossier = view.versions.at(-1)?.dossier;
  const of = (id: string) => view.assessment.requirements.find((r) => r.id === id);
  const signed: Schemas["Signing"] | null | undefined = dossier?.signature;
  return (
    <section className="filed-part" data-part="declarations">
      <h2>{say("Declared and signed")}</h2>
      <dl>
        {view.form.declarations.map((d) => {
          const id = `declarations.${d.declare}`;
          const r = of(id);
          return r?.asked ? (
            <div key={id} className={marks(id) ? "marked" : ""}>
              <dt>{d.text}</dt>
              <dd>{r.because}</dd>
            </div>
          ) : null;
        })}
        <div className={marks("signature") ? "marked" : ""}>
          <dt>{signed?.text || say("Signature")}</dt>
          <dd>
            {signed
              ? say("Signed by {{who}}, {{day}}", { who: signed.name, day: dayOf(signed.at) })
              : say("not signed")}
          </dd>
        </div>
      </dl>
    </section>
  );
}
