// When answers came back: what was asked and answered, what changed without being asked, both versions side by side.
import { useState } from "react";
import { api, ask } from "../api/client";
import { useHotkey } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { amount } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { Compare } from "./Compare";
import { DeskFoot } from "./Foot";
import type { Item } from "./items";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./answers.css";
import "./checklist.css";
import "./desk.css";
import "./rule.css";

export function AnswersDesk({ desk, view, onWhole }: { desk: OnDesk; view: CaseView; onWhole: () => void }) {
  const session = useSession();
  const role = session.data?.person?.role ?? "";
  const a = view.assessment;
  const round = a.rounds.at(-1);
  const items: Item[] = [
    ...(round?.points ?? []).map((point) => ({ key: `p${point.no}`, point, places: point.places.map((x) => x.ref) })),
    ...(round?.unasked ?? []).map((unasked) => ({
      key: `u${unasked.change.place}`,
      unasked,
      places: [unasked.change.place],
    })),
  ];
  const first = items.find((i) => i.point?.state === "answered" || (i.unasked && !i.unasked.taken));
  const [chosen, setChosen] = useState((first ?? items[0])?.key ?? "");
  const [again, setAgain] = useState<string | null>(null);
  const at = Math.max(
    0,
    items.findIndex((i) => i.key === chosen),
  );
  const item = items[at];
  const may = !!a.moves.find((m) => m.role === role && m.move === "judge")?.allowed;
  const go = (by: number) => {
    const next = items[Math.max(0, Math.min(items.length - 1, at + by))];
    if (next) setChosen(next.key);
    setAgain(null);
  };
  const after = () => {
    setAgain(null);
    const rest = [...items.slice(at + 1), ...items.slice(0, at)];
    const next = rest.find((i) => i.point?.state === "answered" || (i.unasked && !i.unasked.taken));
    if (next) setChosen(next.key);
  };
  async function close() {
    const no = item?.point?.no;
    if (!no || !may) return;
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/points/closed", {
          params: path(view.reference),
          headers: seen,
          body: { no, lane: desk.lane },
        }),
      ),
    );
    if (done) after();
  }
  async function askAgain(text: string) {
    const no = item?.point?.no;
    if (!no || !may) return;
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/points/asked-again", {
          params: path(view.reference),
          headers: seen,
          body: { no, text, lane: desk.lane },
        }),
      ),
    );
    if (done) after();
  }
  async function doubt() {
    const requirement = item?.point?.requirement;
    if (!requirement || !may) return;
    await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/judgements", {
          params: path(view.reference),
          headers: seen,
          body: { requirement, standing: "in doubt", reason: "" },
        }),
      ),
    );
  }
  async function take() {
    const place = item?.unasked?.change.place;
    if (!place || !may) return;
    const done = await desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/changes", { params: path(view.reference), headers: seen, body: { place } })),
    );
    if (done) after();
  }
  async function question(text: string) {
    const place = item?.unasked?.change.place;
    if (!place || !may) return;
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/questions", {
          params: path(view.reference),
          headers: seen,
          body: { place, text },
        }),
      ),
    );
    if (done) after();
  }
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("ArrowDown", () => go(1));
  useHotkey("ArrowUp", () => go(-1));
  useHotkey("c", close, may && !!item?.point);
  useHotkey("a", () => setAgain(item?.point?.text ?? ""), may && !!item?.point);
  useHotkey("d", doubt, may && !!item?.point);
  useHotkey("t", take, may && !!item?.unasked);
  useHotkey("q", () => setAgain(""), may && !!item?.unasked);

  const closed = (round?.points ?? []).filter((p) => p.state === "closed").length;
  const open = a.requirements.filter((r) => r.asked && !r.judged);
  return (
    <>
      <div className="desk-body answers">
        <nav className="desk-list" aria-label={say("Asked and answered")}>
          <h2>
            {say("Asked, and answered")}{" "}
            <span>{say("{{closed}} of {{points}} closed", { closed, points: round?.points.length ?? 0 })}</span>
          </h2>
          {items
            .filter((i) => i.point)
            .map((i) => (
              <Point
                key={i.key}
                item={i}
                chosen={i.key === chosen}
                may={may}
                onChoose={() => setChosen(i.key)}
                onClose={close}
                onAgain={() => setAgain(i.point?.text ?? "")}
                onDoubt={doubt}
                doubt={standingOf(view, i) === "in doubt"}
              />
            ))}
          {again !== null && item && (
            <form
              className="desk-again"
              onSubmit={(e) => {
                e.preventDefault();
                if (item.point) askAgain(again);
                else question(again);
              }}
            >
              <label htmlFor="again">
                {item.point ? say("Ask again, in these words") : say("What do you want to know about it?")}
              </label>
              <textarea id="again" value={again} onChange={(e) => setAgain(e.target.value)} rows={4} autoFocus />
              <button type="submit" className="jc-button small">
                {say("Put it into the next letter")}
              </button>{" "}
              <button type="button" className="jc-link" onClick={() => setAgain(null)}>
                {say("cancel")}
              </button>
            </form>
          )}
          <h2>
            {say("Changed without being asked")}{" "}
            <span className={round?.unasked.length ? "ochre" : ""}>{round?.unasked.length ?? 0}</span>
          </h2>
          {items
            .filter((i) => i.unasked)
            .map((i) => (
              <Unasked
                key={i.key}
                item={i}
                chosen={i.key === chosen}
                may={may}
                onChoose={() => setChosen(i.key)}
                onTake={take}
                onQuestion={() => setAgain("")}
              />
            ))}
          <section className="desk-fee">
            <h2>
              {say("The fee now")} <span>{say("paid {{paid}}", { paid: amount(a.account.paid as string) })}</span>
            </h2>
            <ul>
              {a.fees.lines
                .filter((l) => l.stage === "at filing" && l.state !== "not asked")
                .map((l) => (
                  <li key={l.id} title={l.working}>
                    {l.title} <span className="mono">{l.amount !== null ? amount(l.amount) : "open"}</span>
                  </li>
                ))}
              {Number(a.account.over) > 0 && (
                <li>
                  <b>{say("To pay back on acceptance")}</b> <b className="mono">{amount(a.account.over as string)}</b>
                </li>
              )}
              {Number(a.account.open) > 0 && (
                <li className="madder">
                  <b>{say("Still to be paid")}</b> <b className="mono">{amount(a.account.open as string)}</b>
                </li>
              )}
            </ul>
          </section>
          <section className="desk-rest">
            {open.length > 0 && (
              <p>{say("Not judged since: {{open}}.", { open: open.map((r) => r.title).join(", ") })}</p>
            )}
            <button type="button" className="jc-button plain small" onClick={onWhole}>
              {say("The whole checklist")}
            </button>
          </section>
        </nav>
        <main className="desk-evidence">{item && <Compare view={view} item={item} version={round} />}</main>
      </div>
      <DeskFoot desk={desk} view={view} role={role} />
    </>
  );
}

function standingOf(view: CaseView, item: Item): string {
  return view.assessment.requirements.find((r) => r.id === item.point?.requirement)?.standing ?? "";
}

const POINT_TAB: Record<string, string> = {
  closed: "met",
  "asked again": "wanting",
  answered: "to read",
  open: "wanting",
};

function Point({
  item,
  chosen,
  may,
  doubt,
  onChoose,
  onClose,
  onAgain,
  onDoubt,
}: {
  item: Item;
  chosen: boolean;
  may: boolean;
  doubt: boolean;
  onChoose: () => void;
  onClose: () => void;
  onAgain: () => void;
  onDoubt: () => void;
}) {
  const p = item.point;
  if (!p) return null;
  return (
    <section className={`desk-answer${chosen ? " chosen" : ""}`} aria-label={say("Point {{no}}", { no: p.no })}>
      <Tab standing={doubt ? "in doubt" : (POINT_TAB[p.state] ?? "to read")} given={p.state !== "answered" || doubt} />
      <button type="button" className="desk-answer-head" onClick={onChoose} aria-expanded={chosen}>
        <b>
          {p.no} {p.title}
        </b>
        <span className={p.state === "closed" ? "moss" : p.state === "asked again" ? "madder" : "second"}>
          {doubt ? "in doubt" : p.state}
        </span>
      </button>
      <p className="second">{p.text}</p>
      <div className="desk-quote">
        {p.words && <p>“{p.words}”</p>}
        {p.changes.map((c) => (
          <p key={c.place + c.now}>
            {c.title || c.label}: {c.was && <s>{c.was}</s>} <b>{c.now || say("removed")}</b>
          </p>
        ))}
      </div>
      {chosen && may && (
        <p className="desk-answer-keys">
          <button type="button" className="met" aria-pressed={p.state === "closed"} onClick={onClose}>
            {say("Close")} <Key>C</Key>
          </button>
          <button type="button" aria-pressed={p.state === "asked again"} onClick={onAgain}>
            {say("Ask again")} <Key>A</Key>
          </button>
          <button type="button" aria-pressed={doubt} onClick={onDoubt}>
            {say("Doubt")} <Key>D</Key>
          </button>
        </p>
      )}
    </section>
  );
}

function Unasked({
  item,
  chosen,
  may,
  onChoose,
  onTake,
  onQuestion,
}: {
  item: Item;
  chosen: boolean;
  may: boolean;
  onChoose: () => void;
  onTake: () => void;
  onQuestion: () => void;
}) {
  const u = item.unasked;
  if (!u) return null;
  return (
    <section
      className={`desk-answer${chosen ? " chosen" : ""}`}
      aria-label={say("Changed: {{label}}", { label: u.change.label })}
    >
      <Tab standing={u.taken ? "met" : "in doubt"} given />
      <button type="button" className="desk-answer-head" onClick={onChoose} aria-expanded={chosen}>
        <b>{u.change.label}</b>
        {u.taken && <span className="moss">{say("taken")}</span>}
      </button>
      <div className="desk-quote">
        <p>
          {u.change.was && <s>{u.change.was}</s>} <b>{u.change.now || say("removed")}</b>
        </p>
      </div>
      {chosen && may && !u.taken && (
        <p className="desk-answer-keys">
          <button type="button" className="met" onClick={onTake}>
            {say("Take it")} <Key>T</Key>
          </button>
          <button type="button" onClick={onQuestion}>
            {say("Ask about it")} <Key>Q</Key>
          </button>
        </p>
      )}
    </section>
  );
}
