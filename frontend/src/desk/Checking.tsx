// Checking: the checklist, the evidence, the rule; one key judges and moves on.
import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { AnswerList } from "../filing/Filed";
import { Dialog } from "../shared/Dialog";
import { useHotkey, useKeysOn } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { FileLook } from "../shared/PdfView";
import { size } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { History, Registers, Talk } from "./Beside";
import { beneath, type Given } from "./checks";
import { DeskFoot, letterOf } from "./Foot";
import { Rule, tablesOf } from "./Rule";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./checklist.css";
import "./desk.css";
import "./rule.css";

type Looking = "document" | "answers" | "registers" | "talk" | "history";
const SWITCH: [Looking, string][] = [
  ["document", say("Document")],
  ["answers", say("Answers")],
  ["registers", say("Registers")],
  ["talk", say("Talk")],
  ["history", say("History")],
];

export function Checking({ desk, view, onAnswers }: { desk: OnDesk; view: CaseView; onAnswers?: () => void }) {
  const { reference } = view;
  const a = view.assessment;
  const navigate = useNavigate();
  const session = useSession();
  const role = session.data?.person?.role ?? "";
  const list = a.requirements;
  const firstOpen = list.find((r) => r.asked && !r.judged) ?? list[0];
  const [chosen, setChosen] = useState(firstOpen?.id ?? "");
  const [looking, setLooking] = useState<Looking>("document");
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
  const [keysOn, setKeysOn] = useKeysOn();

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
      const next = after.find((r) => r.asked && !r.judged);
      if (next) setChosen(next.id);
    }
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/judgements", {
          params: path(reference),
          headers: seen,
          body: { requirement: judged, standing, reason },
        }),
      ),
    );
    if (!done) setChosen(judged);
  }
  const begin = () =>
    desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/checking", { params: path(reference), headers: seen, body: {} })),
    );
  const undo = () =>
    desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/undo", { params: path(reference), headers: seen, body: {} })),
    );
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("ArrowDown", () => go(1));
  useHotkey("ArrowUp", () => go(-1));
  useHotkey("m", () => judge("met"), mayJudge);
  useHotkey("w", () => judge("wanting"), mayJudge);
  useHotkey("d", () => judge("in doubt"), mayJudge);
  useHotkey("v", () => setWaiving(true), mayJudge);
  useHotkey("k", begin, mayBegin);
  useHotkey("u", undo, view.may_undo);
  useHotkey("r", () => setLooking("registers"));
  useHotkey("x", () => setLooking("talk"));
  useHotkey("l", () => navigate(letterOf(desk, reference)), a.points.length > 0 && !!move("send the letter"));
  useHotkey("?", () => setHelp((on) => !on));
  useEffect(() => {
    document.getElementById(`check-${chosen}`)?.scrollIntoView({ block: "nearest" });
    setWaiving(false);
    setFile("");
  }, [chosen]);

  const files = useMemo(() => view.versions.at(-1)?.files ?? [], [view]);
  const own = files.filter((f) => requirement?.files.some((x) => x.id === f.attachment.id));
  const shownFile = files.find((f) => f.attachment.id === file) ?? own[0];
  const evidence: Looking = looking === "document" && !shownFile ? "answers" : looking;
  const tables = requirement ? tablesOf(view, requirement) : [];
  const boxes = tables.flatMap((t) =>
    t.statements
      .filter((s) => s.file === shownFile?.attachment.id && s.box.length === 4)
      .map((s) => ({ page: s.page, box: s.box, label: s.said, odd: s.odd })),
  );
  const groups: [string, string][] = [
    ...view.form.parts.map((p): [string, string] => [p.id, p.title]),
    ["documents", say("Documents")],
    ["signature", say("Promise and sign")],
    ["fees", say("Fees")],
    ["added", say("Asked by hand")],
  ];
  const judged = list.filter((r) => r.asked && r.judged).length;
  const asked = list.filter((r) => r.asked).length;

  return (
    <>
      <div className="desk-body">
        <nav className="desk-list" aria-label={say("Checklist")}>
          <h2>
            {onAnswers && (
              <button type="button" className="jc-link" onClick={onAnswers}>
                {say("Answers")}
              </button>
            )}{" "}
            {say("Checklist")} <span>{say("{{judged}} of {{asked}} judged", { judged, asked })}</span>
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
                    className={`desk-check${r.id === chosen ? " chosen" : ""}${r.asked ? "" : " quiet"}`}
                    aria-current={r.id === chosen || undefined}
                    onClick={() => setChosen(r.id)}
                  >
                    <Tab standing={r.standing} given={r.judged} />
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
                <b>{SWITCH.find(([id]) => id === evidence)?.[1]}</b>{" "}
                <span className="second">{say("version {{version}}", { version: a.version })}</span>
              </p>
            )}
            <div className="desk-switch" role="group" aria-label={say("What to look at")}>
              {SWITCH.map(([id, label]) => (
                <button
                  key={id}
                  type="button"
                  aria-pressed={evidence === id}
                  disabled={id === "document" && !shownFile}
                  onClick={() => setLooking(id)}
                >
                  {label}
                  {id === "talk" && view.messages.some((m) => !m.office && !m.read_at) && (
                    <b className="desk-dot"> {say("new")}</b>
                  )}
                </button>
              ))}
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
                boxes={boxes}
              />
            </>
          ) : evidence === "registers" ? (
            <Registers desk={desk} view={view} />
          ) : evidence === "talk" ? (
            <Talk view={view} />
          ) : evidence === "history" ? (
            <History view={view} />
          ) : (
            <div className="desk-sheet" tabIndex={0} role="group" aria-label={say("What was answered")}>
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
                <Key>N</Key> <Key>B</Key> {say("next, back")} <Key>,</Key> <Key>.</Key> {say("sheet")} <Key>+</Key>{" "}
                <Key>-</Key> {say("size")} <Key>U</Key> {say("undo")} <Key>?</Key> {say("keys")}
              </>
            ) : (
              say("The letter keys are off.")
            )}{" "}
            <button type="button" className="jc-link" onClick={() => setKeysOn(!keysOn)}>
              {keysOn ? say("switch the keys off") : say("switch the keys on")}
            </button>
          </p>
        </main>
        <aside className="desk-rule" aria-label={say("The rule")}>
          {mayBegin && (
            <div className="desk-begin">
              <p>{say("Nobody checks this case yet. With your word the checking begins and the case is yours.")}</p>
              <button type="button" className="jc-button wide" onClick={begin} disabled={desk.busy}>
                {say("Begin checking")} <Key>K</Key>
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
              why={move("judge")?.why_not[0]?.text ?? say("Your role reads and does not judge.")}
              waiving={waiving}
              onWaive={() => setWaiving(true)}
              onJudge={judge}
            />
          )}
        </aside>
      </div>
      <DeskFoot desk={desk} view={view} role={role} />
      <KeyHelp opened={help} onClose={() => setHelp(false)} />
    </>
  );
}

function KeyHelp({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Dialog title={say("Keys of the desk")} opened={opened} onClose={onClose}>
      <dl className="desk-help">
        <dt>
          <Key>N</Key> <Key>B</Key> <Key>↑</Key> <Key>↓</Key>
        </dt>
        <dd>{say("next, back in the checklist")}</dd>
        <dt>
          <Key>M</Key> <Key>W</Key> <Key>D</Key> <Key>V</Key>
        </dt>
        <dd>{say("met, wanting, in doubt, waive")}</dd>
        <dt>
          <Key>,</Key> <Key>.</Key>
        </dt>
        <dd>{say("sheet before, next sheet")}</dd>
        <dt>
          <Key>+</Key> <Key>-</Key>
        </dt>
        <dd>{say("larger, smaller")}</dd>
        <dt>
          <Key>K</Key> <Key>L</Key>
        </dt>
        <dd>{say("begin checking, read the letter")}</dd>
        <dt>
          <Key>U</Key> <Key>R</Key> <Key>X</Key>
        </dt>
        <dd>{say("undo the last step, registers, talk")}</dd>
        <dt>
          <Key>F</Key>
        </dt>
        <dd>{say("find a case")}</dd>
      </dl>
      <button type="button" className="jc-button small" onClick={onClose}>
        {say("Close")}
      </button>
    </Dialog>
  );
}
