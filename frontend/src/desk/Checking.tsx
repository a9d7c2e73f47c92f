// Checking: the checklist, the evidence, the rule; one key judges and moves on.
import { useDisclosure } from "@mantine/hooks";
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import { useHotkey, useKeysOn } from "../shared/keys";
import { Key } from "../shared/Marks";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { CheckList, type Section } from "./CheckList";
import type { Given, Requirement } from "./checks";
import { KEY } from "./deskKeys";
import { Evidence, type Looking } from "./Evidence";
import { DeskFoot, letterOf } from "./Foot";
import { ItemsTable, type ItemTable, inRows, moveIn, tablesOfItems } from "./ItemsTable";
import { KeyHelp } from "./KeyHelp";
import { useOnScreen } from "./onScreen";
import { Rest } from "./Rest";
import { Rule } from "./Rule";
import type { Side } from "./TwoFiles";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./checklist.css";
import "./desk.css";
import "./rule.css";

export function Checking({ desk, view, onAnswers }: { desk: OnDesk; view: CaseView; onAnswers?: () => void }) {
  const { reference } = view;
  const a = view.assessment;
  const navigate = useNavigate();
  const [query] = useSearchParams();
  const session = useSession();
  const role = session.data?.person?.role ?? "";
  const [all, setAll] = useState(false); // what is judged already or not asked is folded away
  const [tabled, setTabled] = useState(true);
  // what was given and is not on the screen yet, with the revision that shows it: none while it is on its way
  const onTheWay = useRef(new Map<string, number>());
  const shown = (r: Requirement) => (onTheWay.current.get(r.id) ?? 0) <= view.revision;
  // what was open when the desk was opened stays in the list while it is judged, so that nothing jumps away
  const opened = useRef(new Map<string, Set<string>>());
  const before = opened.current.get(desk.lane) ?? openOf(a.requirements);
  opened.current.set(desk.lane, before);
  const inList = (r: Requirement) => all || before.size === 0 || before.has(r.id) || (r.asked && !r.judged);
  // the sites of a trial stand in one table, each row in a lane of its own
  const tables = useMemo(
    () => (tabled ? tablesOfItems(view.form.parts, (desk.whole ?? view).assessment.requirements) : []),
    [tabled, view, desk.whole],
  );
  const sections = useMemo(() => sectionsOf(view, tables), [view, tables]);
  const shownSections = sections
    .map((s) => ({ ...s, rows: s.rows.filter(inList) }))
    .filter((s) => s.table || s.rows.length > 0);
  const list = shownSections.flatMap((s) => [...s.rows, ...(s.table ? inRows(s.table) : [])]);
  const firstOpen = nextOf(list) ?? list[0];
  const { chosen: mark, setChosen } = desk;
  const chosen = list.some((r) => r.id === mark) ? mark : (firstOpen?.id ?? "");
  const [asking, setAsking] = useState<Given | "">("");
  const [help, setHelp] = useState(false);
  const [looking, { open: lookOver, close: lookedOver }] = useDisclosure(false);
  const screen = useOnScreen(reference, a.version);
  const at = Math.max(
    0,
    list.findIndex((r) => r.id === chosen),
  );
  const requirement = list[at];
  const [compare, setCompare] = useState<[Side, Side] | null>(null);
  const [look, setLook] = useState<{ of: string; what: Looking | "" }>({
    of: chosen,
    what: query.get("look") === "talk" ? "talk" : "",
  });
  const marked = useRef(chosen);
  marked.current = chosen;
  const onLook = useCallback((change: (now: Looking | "") => Looking | "") => {
    const of = marked.current;
    setLook((was) => ({ of, what: change(was.of === of ? was.what : "") }));
  }, []);
  const lookedAtNow = useDeferredValue(requirement); // the mark first, then its evidence
  const table = tables.find((t) => inRows(t).some((r) => r.id === chosen));
  const move = (name: string) => a.moves.find((m) => m.role === role && m.move === name);
  const mayJudge = !!move("judge")?.allowed;
  const mayBegin = !!move("begin checking")?.allowed;
  const [keysOn, setKeysOn] = useKeysOn();

  /** Mark a requirement; one of another lane leads there. */
  function choose(r?: Requirement) {
    if (!r) return;
    if (desk.lanes.length > 0 && r.lane !== desk.lane) desk.choose(r.lane);
    setChosen(r.id);
  }
  const go = (by: number) => choose(list[Math.max(0, Math.min(list.length - 1, at + by))]);
  /** An arrow: within the table along its rows and columns, else along the list. */
  const arrow = (down: number, right: number) => {
    const there = table && moveIn(table, chosen, down, right);
    if (there) choose(there);
    else if (down) go(down);
  };
  const rest = a.requirements.filter((r) => r.confirmable && mayJudge);
  const shownBefore = (r: Requirement) => screen.seen(r.rests_on) || screen.seen([`answers-${r.id}`]);
  const lookedAt = rest.filter(shownBefore);
  const confirmRest = async () => {
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/judgements/rest", {
          params: path(reference),
          headers: seen,
          body: { requirements: lookedAt.map((r) => r.id) },
        }),
      ),
    );
    const given = new Set(lookedAt.map((r) => r.id));
    if (done && marked.current === chosen) choose(nextOf(list.filter((r) => !given.has(r.id))));
  };
  async function judge(standing: Given | null, reason = "") {
    if (!requirement || !mayJudge) return;
    if (standing === "met" && requirement.met_needs_reason && !reason) return setAsking("met");
    const after = [...list.slice(at + 1), ...list.slice(0, at)].filter(shown);
    // wanting stays, for the words of its point; the key once more goes on
    if (standing === "wanting" && requirement.given?.holds && requirement.given.standing === "wanting")
      return choose(nextOf(after));
    setAsking("");
    const judged = requirement.id;
    let went = judged;
    if (standing === "met" || standing === "waived" || standing === "in doubt") {
      // on to the next at once: a hurried officer does not wait for the answer
      const next = nextOf(after);
      choose(next);
      went = next?.id ?? judged;
    }
    onTheWay.current.set(judged, Number.POSITIVE_INFINITY);
    const done = await desk.move((seen) =>
      ask(
        api.POST("/api/cases/{reference}/judgements", {
          params: path(reference),
          headers: seen,
          body: { requirement: judged, standing, reason },
        }),
      ),
    );
    onTheWay.current.set(judged, done?.revision ?? 0);
    // back to what was refused, unless somebody is at another one by now
    if (!done && marked.current === went) setChosen(judged);
  }
  const begin = () =>
    desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/checking", { params: path(reference), headers: seen, body: {} })),
    );
  const undo = async () => {
    const before = new Map(a.requirements.map((r) => [r.id, `${r.judged} ${r.standing}`]));
    const done = await desk.move((seen) =>
      ask(api.POST("/api/cases/{reference}/undo", { params: path(reference), headers: seen, body: {} })),
    );
    const undone = done?.assessment.requirements.find((r) => before.get(r.id) !== `${r.judged} ${r.standing}`);
    if (undone) setChosen(undone.id); // the mark goes to what was undone
  };
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("ArrowDown", () => arrow(1, 0));
  useHotkey("ArrowUp", () => arrow(-1, 0));
  useHotkey("ArrowRight", () => arrow(0, 1), !!table);
  useHotkey("ArrowLeft", () => arrow(0, -1), !!table);
  useHotkey(KEY.table, () => setTabled((on) => !on));
  useHotkey(KEY.rest, lookOver, rest.length > 0);
  const keys = mayJudge && !asking; // while a reason is asked for, letters are words
  useHotkey("m", () => judge("met"), keys);
  useHotkey("w", () => judge("wanting"), keys);
  useHotkey("d", () => judge("in doubt"), keys);
  useHotkey("v", () => setAsking("waived"), keys);
  useHotkey("k", begin, mayBegin);
  useHotkey(KEY.undo, undo, view.may_undo && !desk.leaving);
  useHotkey(KEY.other, () => onAnswers?.(), !!onAnswers);
  useHotkey(KEY.words, () => document.querySelector<HTMLElement>(".desk-point textarea")?.focus());
  useHotkey("l", () => navigate(letterOf(desk, reference)), a.points.length > 0 && !!move("send the letter"));
  useHotkey("?", () => setHelp((on) => !on));
  useEffect(() => {
    if (chosen && chosen !== mark) setChosen(chosen); // the mark stays where it is, also when it was judged
  }, [chosen, mark, setChosen]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another requirement, another reason
  useEffect(() => setAsking(""), [chosen]);
  const judged = a.requirements.filter((r) => r.asked && r.judged).length;
  const asked = a.requirements.filter((r) => r.asked).length;
  const hidden = sections.flatMap((s) => s.rows).filter((r) => !inList(r));
  const folded = { judged: hidden.filter((r) => r.asked).length, notAsked: hidden.filter((r) => !r.asked).length };

  return (
    <>
      <div className={`desk-body${table ? " tabled" : ""}`}>
        <CheckList
          sections={shownSections}
          chosen={chosen}
          onChoose={(id) => choose(list.find((r) => r.id === id))}
          judged={judged}
          asked={asked}
          folded={folded}
          all={all}
          onAll={() => setAll(!all)}
          onAnswers={onAnswers}
        />
        <main className="desk-evidence" aria-busy={lookedAtNow?.id !== requirement?.id}>
          {table && <ItemsTable table={table} chosen={chosen} onChoose={choose} />}
          <Evidence
            move={desk.move}
            view={view}
            requirement={lookedAtNow}
            note={screen.note}
            looking={look.of === chosen ? look.what : ""}
            onLook={onLook}
            compare={compare}
            short={!!table}
          />
          <p className="desk-keys">
            {keysOn ? (
              <>
                <Key>N</Key> <Key>B</Key> {say("next, back")} <Key>,</Key> <Key>.</Key> {say("sheet")}{" "}
                <Key>{say("Space")}</Key> {say("move")} <Key>+</Key> <Key>-</Key> {say("size")} <Key>U</Key>{" "}
                {say("undo")} <Key>?</Key> {say("keys")}
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
              asking={asking}
              onAsk={setAsking}
              onJudge={judge}
              onCompare={setCompare}
            />
          )}
          {rest.length > 0 && (
            <p className="desk-confirm">
              <b>{say("{{rest}} are met, says the machine;", { rest: rest.length })}</b>{" "}
              {say("{{seen}} were shown.", { seen: lookedAt.length })}{" "}
              <button type="button" className="jc-button plain small" onClick={lookOver}>
                {say("Look them over")} <Key>{KEY.rest.toUpperCase()}</Key>
              </button>
            </p>
          )}
        </aside>
      </div>
      <Rest
        view={view}
        seen={shownBefore}
        screen={screen}
        opened={looking}
        onGive={confirmRest}
        onSee={choose}
        onClose={lookedOver}
      />
      <DeskFoot desk={desk} view={view} role={role} />
      <KeyHelp opened={help} onClose={() => setHelp(false)} />
    </>
  );
}

/** The next one to judge: what a person has to read first, then what the machine finds met, which may be confirmed with the rest. */
const nextOf = (requirements: Requirement[]) => {
  const open = requirements.filter((r) => r.asked && !r.judged);
  return open.find((r) => !r.confirmable) ?? open[0];
};

const openOf = (requirements: Requirement[]) =>
  new Set(requirements.filter((r) => r.asked && !r.judged).map((r) => r.id));

/** The checklist in parts; what stands in a table is not listed once more. */
function sectionsOf(view: CaseView, tables: ItemTable[]): Section[] {
  const inTables = new Set(tables.flatMap((t) => inRows(t).map((r) => r.id)));
  const groups: [string, string][] = [
    ...view.form.parts.map((p): [string, string] => [p.id, p.title]),
    ["documents", say("Documents")],
    ["signature", say("Promise and sign")],
    ["fees", say("Fees")],
    ["added", say("Asked by hand")],
  ];
  return groups.map(([id, title]) => ({
    id,
    title,
    rows: view.assessment.requirements.filter((r) => r.group === id && !inTables.has(r.id)),
    table: tables.find((t) => t.part === id),
  }));
}
