// The questions of a part, made from the rulebook: each with its help in the margin and its complaint at its place.
import { useMediaQuery } from "@mantine/hooks";
import { memo, useCallback, useContext, useEffect, useRef, useState } from "react";
import { Link, useLocation, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { say } from "../shared/text";
import { leave, wasLeft } from "./beginning";
import { type Answers, type FormView, givenIn, type Item, isLocked, itemsIn } from "./draft";
import { Earlier } from "./Earlier";
import { Field, Source } from "./Field";
import { GroupTable } from "./GroupTable";
import { useGroup } from "./group";
import { columnsOf } from "./groupRows";
import { RegisterOfItem } from "./RegisterBox";
import { Said } from "./Said";
import { putBack, Undoing } from "./undo";
import "./filing.css";
import "./questions.css";

type Question = Schemas["Question"];

/** A label of so many letters takes two lines where two fields stand side by side. */
const LONG_LABEL = 26;

/** The questions of a part; of one that repeats, a set of them for each item. `onPart` gets the whole part anew. */
export function Questions({
  view,
  part,
  answers,
  onPart,
  only,
  item,
}: {
  view: FormView;
  part: Schemas["Part"];
  answers: Answers;
  onPart: (value: unknown) => void;
  /** One question alone, by its place. */
  only?: string;
  /** Whose questions these are, where one repeat is shown as if it were a part. */
  item?: number;
}) {
  if (part.each) return <Items key={part.id} view={view} part={part} answers={answers} onPart={onPart} />;
  const values = givenIn(answers, part.id);
  return (
    <Rows
      key={part.id}
      view={view}
      part={part}
      prefix={item ? `${part.id}.${item}` : part.id}
      values={values}
      only={only}
      onAnswer={(question, value) => onPart({ ...values, [question]: value })}
    />
  );
}

/** So many repeats are shown as a table unless one asks for them one by one, if there can be so many at all. */
const TABLE_FROM = 4;
const TABLE_IF = 6;
/** What was chosen last for a part of a filing, as long as the page is open. */
const CHOSEN = new Map<string, string>();

function Items({
  view,
  part,
  answers,
  onPart,
}: {
  view: FormView;
  part: Schemas["Part"];
  answers: Answers;
  onPart: (value: unknown) => void;
}) {
  const items = itemsIn(answers, part.id);
  const offerUndo = useContext(Undoing);
  const group = useGroup();
  const [asked] = useSearchParams();
  const { pathname, hash } = useLocation();
  const narrow = useMediaQuery("(max-width: 820px)", false, { getInitialValueInEffect: false });
  const [many] = useState(items.length >= TABLE_FROM && !narrow);
  // a number that no item of this case ever had; those just added are not known to the office yet
  const next = Math.max(view.next_items?.[part.id] ?? 1, ...items.map((item) => item.id + 1));
  const latest = useRef({ items, onPart });
  latest.current = { items, onPart };
  const onAnswer = useCallback((id: number, question: string, value: unknown) => {
    const { items, onPart } = latest.current;
    onPart(items.map((other) => (other.id === id ? { ...other, [question]: value } : other)));
  }, []);
  const onRemove = useCallback(
    (item: Item) => {
      const { items, onPart } = latest.current;
      const position = items.findIndex((x) => x.id === item.id);
      onPart(items.filter((x) => x.id !== item.id));
      offerUndo?.(`${part.one ?? part.title} ${item.id}`, part.id, (now) =>
        putBack(itemsIn({ [part.id]: now }, part.id), item, position),
      );
    },
    [offerUndo, part],
  );
  const both = group !== null && part.at_most >= TABLE_IF;
  // a link to an answer that has no column leads to the one that it is about
  const linked = hash.startsWith(`#${part.id}.`) ? placeOf(decodeURIComponent(hash.slice(1))).question : "";
  const apart = part.questions.some((q) => q.id === linked) && !columnsOf(part, (q) => q === linked).length;
  const { draft = "" } = useParams();
  const page = `${draft} ${part.id}`;
  const chosen = asked.get("as");
  if (chosen) CHOSEN.set(page, chosen);
  const as = apart ? "cards" : (chosen ?? CHOSEN.get(page) ?? (many ? "table" : "cards"));
  const ways = both && (
    <p className="group-ways">
      {as === "table" ? <Link to="?as=cards">{say("one by one")}</Link> : <b>{say("one by one")}</b>}
      {" · "}
      {as === "table" ? <b>{say("as a table")}</b> : <Link to="?as=table">{say("as a table")}</Link>}
    </p>
  );
  const pick = !isLocked(view, part.id) && <Earlier part={part.id} most={part.at_most - items.length} />;
  if (both && as === "table")
    return (
      <>
        {ways}
        <GroupTable
          view={view}
          part={part}
          answers={answers}
          onPart={onPart}
          next={next}
          base={pathname.slice(0, pathname.lastIndexOf("/"))}
        />
        <Said view={view} place={part.id} />
        {pick}
      </>
    );
  return (
    <>
      {ways}
      {items.map((item) => (
        <Card key={item.id} view={view} part={part} item={item} onAnswer={onAnswer} onRemove={onRemove} />
      ))}
      {items.length === 0 && <p className="second">{say("None yet.")}</p>}
      <Said view={view} place={part.id} />
      <p id={part.id}>
        <button
          type="button"
          className="jc-button plain small"
          disabled={items.length >= part.at_most || isLocked(view, part.id)}
          onClick={() => onPart([...items, { id: next }])}
        >
          {items.length ? say("Add another") : say("Add the first")}
          {part.one && <span className="jc-hidden"> {part.one}</span>}
        </button>
        {items.length >= part.at_most && (
          <span className="second"> {say("{{most}} is the most.", { most: part.at_most })}</span>
        )}
      </p>
      {pick}
    </>
  );
}

/** The questions of one repeat. It is drawn anew only when something of it, or what the engine says, has changed. */
const Card = memo(function Card({
  view,
  part,
  item,
  onAnswer,
  onRemove,
}: {
  view: FormView;
  part: Schemas["Part"];
  item: Item;
  onAnswer: (id: number, question: string, value: unknown) => void;
  onRemove: (item: Item) => void;
}) {
  const prefix = `${part.id}.${item.id}`;
  const named = `${part.one ?? part.title} ${item.id}`;
  // what looks something up is drawn anew with every key: only where there is something to be looked up
  const registered = part.questions.filter((q) => q.register);
  return (
    <fieldset id={prefix} className="filing-item">
      <legend>{named}</legend>
      <Said view={view} place={prefix} />
      {registered.length > 0 &&
        !isLocked(view, `${prefix}.${part.questions[0]?.id}`) &&
        !registered.some((q) => item[q.id]) && <RegisterOfItem part={part} item={item.id} called={named} />}
      <Rows
        view={view}
        part={part}
        prefix={prefix}
        values={item}
        onAnswer={(question, value) => onAnswer(item.id, question, value)}
      />
      {!part.questions.some((q) => isLocked(view, `${prefix}.${q.id}`)) && (
        <button type="button" className="jc-link" onClick={() => onRemove(item)}>
          {say("remove")} <span className="jc-hidden">{named}</span>
        </button>
      )}
    </fieldset>
  );
});

function Rows({
  view,
  part,
  prefix,
  values,
  only,
  onAnswer,
}: {
  view: FormView;
  part: Schemas["Part"];
  prefix: string;
  values: Record<string, unknown>;
  only?: string;
  onAnswer: (question: string, value: unknown) => void;
}) {
  const states = new Map(view.assessment.parts.find((p) => p.id === part.id)?.questions.map((q) => [q.place, q]) ?? []);
  const shown = part.questions.filter((q) => {
    const state = states.get(`${prefix}.${q.id}`);
    // an item that was just added is not assessed yet
    return (part.each && !state) || (state && state.asked !== "no" && (!only || `${prefix}.${q.id}` === only));
  });
  const rows: Question[][] = [];
  for (const q of shown) {
    const last = rows.at(-1);
    if (q.beside && last && last.length < 2) last.push(q);
    else rows.push([q]);
  }
  // marked as needed is what was passed over; all of it for somebody who comes back to what was begun before
  const [before] = useState(values); // also what the way in was told
  const filledIn = new Set(view.dossier?.prefilled.map((given) => given.place));
  const isGiven = (q: Question) => values[q.id] !== undefined && values[q.id] !== "";
  const lastAnswered = shown.findLastIndex(
    (q) => isGiven(q) && values[q.id] !== before[q.id] && !filledIn.has(`${prefix}.${q.id}`),
  );
  const { draft = "" } = useParams();
  const [cameBack] = useState(() => wasLeft(draft, prefix) ?? shown.some(isGiven));
  useEffect(() => () => leave(draft, prefix), [draft, prefix]);
  const passedOver = new Set(shown.slice(0, cameBack ? undefined : Math.max(0, lastAnswered)).map((q) => q.id));
  const helped = (row?: Question[]) =>
    row?.some((q) => (q.help && q.type !== "rows" && row.length === 1) || q.register);
  return (
    <>
      {rows.map((row, n) => {
        const first = row[0];
        if (!first) return null;
        const places = row.map((q) => `${prefix}.${q.id}`);
        const computed = view.assessment.computed.filter((c) => places.some((p) => c.beside[0] === p) && c.working);
        return (
          <div key={first.id} className="filing-row">
            <div className={`filing-fields n${row.length}${row.some((q) => q.ask.length > LONG_LABEL) ? " tall" : ""}`}>
              {row.map((q) => {
                const place = `${prefix}.${q.id}`;
                const state = states.get(place);
                return (
                  <Field
                    key={q.id}
                    view={view}
                    question={q}
                    place={place}
                    value={values[q.id]}
                    fault={state?.fault ?? ""}
                    needed={passedOver.has(q.id) && !!state?.left && !state.fault && !(q.type === "rows" && isGiven(q))}
                    narrow={row.length > 1}
                    help={row.length > 1 && q.type !== "rows" ? (q.help ?? "") : ""}
                    offered={state?.offered ?? null}
                    read={
                      state && !state.fault
                        ? { said: state.said, ask: state.ask, raw: state.raw, iso: state.day ?? null }
                        : null
                    }
                    waits={state?.asked === "not known yet" || state?.offered?.length === 0 ? state.because : ""}
                    unfinished={q.type === "rows" && state?.asked === "yes" ? state.because : ""}
                    onChange={(value) => onAnswer(q.id, value)}
                  />
                );
              })}
            </div>
            <div className={`filing-margin${helped(rows[n + 1]) ? "" : " overhangs"}`}>
              {row.length === 1 && first.help && first.type !== "rows" && (
                <p id={`help-${prefix}.${first.id}`}>{first.help}</p>
              )}
              {computed.map((c) => (
                <div key={c.id} className="computed">
                  {c.help && <p>{c.help}</p>}
                  <p>
                    {c.title}: {c.working}.
                  </p>
                </div>
              ))}
              {places.map((place) => (
                <Source key={place} view={view} place={place} />
              ))}
            </div>
          </div>
        );
      })}
    </>
  );
}
