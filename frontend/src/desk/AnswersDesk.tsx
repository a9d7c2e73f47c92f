// When answers came back: what was asked and answered, what changed without being asked, both versions side by side.
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { amount } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { Point, Unasked } from "./AnswerItem";
import { Registers, Talk } from "./Beside";
import { Compare } from "./Compare";
import { KEY } from "./deskKeys";
import { DeskFoot, letterOf } from "./Foot";
import type { Item } from "./items";
import { KeyHelp } from "./KeyHelp";
import { ReasonLine } from "./ReasonLine";
import { type CaseView, type OnDesk, path } from "./useCase";
import { Words } from "./Words";
import "./answers.css";
import "./checklist.css";
import "./desk.css";
import "./rule.css";

type Beside = "" | "registers" | "talk";
/** What is looked at: both versions of what a point asked, or what lies beside. */
const BESIDE: [Beside, string, string][] = [
  ["", say("Both versions"), ""],
  ["registers", say("Registers"), KEY.registers],
  ["talk", say("Talk"), KEY.talk],
];

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
  const [help, setHelp] = useState(false);
  const [beside, setBeside] = useState<Beside>("");
  const navigate = useNavigate();
  const [closing, setClosing] = useState(false); // the reason is asked for why a point is closed that is still wanting
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
    setClosing(false);
  };
  const after = () => {
    setAgain(null);
    const rest = [...items.slice(at + 1), ...items.slice(0, at)];
    const next = rest.find((i) => i.point?.state === "answered" || (i.unasked && !i.unasked.taken));
    if (next) setChosen(next.key);
  };
  async function close(reason = "") {
    const no = item?.point?.no;
    if (!no || !may) return;
    if (stillWanting(view, item) && !reason) return setClosing(true);
    setClosing(false);
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/points/closed", {
          params: path(view.reference),
          headers: seen,
          body: { no, lane: desk.lane, reason },
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
  const undo = () =>
    desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/undo", { params: path(view.reference), headers: seen, body: {} })),
    );
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
  const keys = may && again === null && !closing; // while a form is open, letters are words
  useHotkey("c", () => close(), keys && !!item?.point);
  useHotkey("a", () => setAgain(item?.point?.text ?? ""), keys && !!item?.point);
  useHotkey("d", doubt, keys && !!item?.point);
  useHotkey(KEY.other, onWhole);
  useHotkey(KEY.undo, undo, view.may_undo && !desk.leaving);
  useHotkey(KEY.letter, () => navigate(letterOf(desk, view.reference)), a.points.length > 0);
  const toggle = (to: Beside) => setBeside((now) => (now === to ? "" : to));
  useHotkey(KEY.registers, () => toggle("registers"));
  useHotkey(KEY.talk, () => toggle("talk"));
  useHotkey("?", () => setHelp((on) => !on));
  useHotkey("t", take, keys && !!item?.unasked && !item.unasked.questioned);
  useHotkey("q", () => setAgain(""), keys && !!item?.unasked && !item.unasked.questioned);

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
                now={nowSaid(view, i)}
                onClose={() => close()}
                onAgain={() => setAgain(i.point?.text ?? "")}
                onDoubt={doubt}
                doubt={standingOf(view, i) === "in doubt"}
              />
            ))}
          {closing && item && (
            <ReasonLine
              against={stillWanting(view, item)?.because ?? ""}
              onGive={close}
              onClose={() => setClosing(false)}
            />
          )}
          {again !== null && item && (
            <Words
              className="desk-again"
              give={say("Put it into the next letter")}
              label={item.point ? say("Ask again, in these words") : say("What do you want to know about it?")}
              first={again}
              onGive={item.point ? askAgain : question}
              onClose={() => setAgain(null)}
            />
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
              {say("The whole checklist")} <Key>{KEY.other.toUpperCase()}</Key>
            </button>
          </section>
        </nav>
        <main className="desk-evidence">
          <div className="desk-bar">
            <p>
              <b>
                {BESIDE.find(([it]) => it && it === beside)?.[1] ?? item?.point?.title ?? item?.unasked?.change.label}
              </b>
            </p>
            <div className="desk-switch" role="group" aria-label={say("What to look at")}>
              {BESIDE.map(([it, label, key]) => (
                <button key={it} type="button" aria-pressed={beside === it} onClick={() => setBeside(it)}>
                  {label} {key && <Key>{key.toUpperCase()}</Key>}
                </button>
              ))}
            </div>
          </div>
          {beside === "registers" ? (
            <Registers move={desk.move} view={view} />
          ) : beside === "talk" ? (
            <Talk view={view} />
          ) : (
            item && <Compare view={view} item={item} version={round} />
          )}
        </main>
      </div>
      <DeskFoot desk={desk} view={view} role={role} />
      <KeyHelp opened={help} onClose={() => setHelp(false)} />
    </>
  );
}

/** The requirement of a point of which the machine still finds a fault or has a doubt. */
function stillWanting(view: CaseView, item?: Item) {
  const ids = item?.point ? [item.point.requirement, ...item.point.also] : [];
  return view.assessment.requirements.find((r) => ids.includes(r.id) && r.met_needs_reason);
}

/** What the machine says of a point now. */
function nowSaid(view: CaseView, item: Item): string {
  const wanting = stillWanting(view, item);
  if (wanting) return say("The machine still says: {{said}}", { said: wanting.because });
  const r = view.assessment.requirements.find((other) => other.id === item.point?.requirement);
  return r ? say("The machine now says: {{proposed}}.", { proposed: r.proposed }) : "";
}

function standingOf(view: CaseView, item: Item): string {
  return view.assessment.requirements.find((r) => r.id === item.point?.requirement)?.standing ?? "";
}
