// A pile: papers dropped together, each offered a place with its reasons; confirmed, moved, cut and joined by keys.
import { useDocumentTitle } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask } from "../api/client";
import { OtherFiling } from "../counter/OtherFiling";
import { useHeading } from "../shared/heading";
import { marked as atMark, useHotkey } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say, things } from "../shared/text";
import { DropAll, pileKey, usePile } from "./DropAll";
import { useDraft } from "./draft";
import { NotArrived } from "./OnTheirWay";
import { named, type Piece, SheetOf } from "./PieceShown";
import "./filing.css";
import "./pile.css";

type Chosen = Record<string, string>;

const MOST_SHOWN = 5;

export function Pile() {
  const { draft: id = "" } = useParams();
  const work = useDraft(id);
  const pile = usePile(id);
  const queries = useQueryClient();
  const [marked, setMarked] = useState("");
  const [page, setPage] = useState(1);
  const [chosen, setChosen] = useState<Chosen>({});
  const [trouble, setTrouble] = useState<unknown>(null);
  const view = work.view;
  useHeading(view !== undefined);
  useDocumentTitle([say("Sort what came"), view?.form.title].filter(Boolean).join(" - "));
  // what is being placed or left out is gone from the list at once, so that the next key means the next paper
  const [gone, setGone] = useState<ReadonlySet<string>>(new Set());
  const pieces = (pile.data?.pieces ?? []).filter((p) => !gone.has(p.id));
  const spots = pile.data?.spots ?? [];
  const sure = pile.data?.sure ?? 1;
  const spotOf = (p: Piece) => chosen[p.id] ?? p.offers[0]?.spot ?? "";
  const safe = (p: Piece) => chosen[p.id] !== undefined || (p.offers[0]?.sure ?? 0) >= sure;
  const twice = pieces.filter((p) => p.same_as);
  const toLook = pieces.filter((p) => !p.same_as && !safe(p));
  const placed = pieces.filter((p) => !p.same_as && safe(p));
  const order = [...toLook, ...placed, ...twice];
  const at = Math.max(
    0,
    order.findIndex((p) => p.id === marked),
  );
  const now = order[at];
  const nowId = now?.id ?? "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: another piece begins at its first sheet
  useEffect(() => setPage(now?.first || 1), [nowId]);
  const again = () => queries.invalidateQueries({ queryKey: pileKey(id) });
  const path = { draft: id };

  /** Do something to the pile; what is refused is told, and nothing else is lost. */
  const done = async (work: () => Promise<unknown>) => {
    try {
      await work();
      setTrouble(null);
    } catch (error) {
      setTrouble(error);
    }
    await again();
  };
  /** Do something that takes pieces away; the mark goes on to the next paper, and what is refused comes back. */
  const away = async (some: Piece[], work: () => Promise<unknown>) => {
    const left = order.filter((p) => !some.includes(p));
    setMarked((left.find((p) => order.indexOf(p) > at) ?? left.at(-1))?.id ?? "");
    setGone((was) => new Set([...was, ...some.map((p) => p.id)]));
    await done(work);
    setGone((was) => new Set([...was].filter((one) => !some.some((p) => p.id === one))));
  };
  const place = (some: Piece[]) => {
    const put = some.filter((p) => spotOf(p));
    const body = { placed: put.map((p) => ({ piece: p.id, spot: spotOf(p) })) };
    if (put.length === 0) return;
    away(put, () =>
      work.change((seen) => ask(api.POST("/api/drafts/{draft}/pile", { params: { path }, headers: seen, body }))),
    );
  };
  const pieceOf = (p: Piece) => ({ path: { draft: id, piece: p.id } });
  // a cut makes other pieces of what is shown: a second key waits until they are
  const parting = useRef(false);
  const part = async (work: () => Promise<unknown>) => {
    if (parting.current) return;
    parting.current = true;
    await done(work);
    parting.current = false;
  };
  const cut = () =>
    now &&
    page > (now.first || 1) &&
    part(() => ask(api.POST("/api/drafts/{draft}/pile/{piece}/cut", { params: pieceOf(now), body: { before: page } })));
  const join = () =>
    now &&
    now.first > 1 &&
    part(() => ask(api.POST("/api/drafts/{draft}/pile/{piece}/joined", { params: pieceOf(now) })));
  const drop = () =>
    now && away([now], () => ask(api.DELETE("/api/drafts/{draft}/pile/{piece}", { params: pieceOf(now) })));
  const go = (by: number) => {
    const to = order[Math.max(0, Math.min(order.length - 1, at + by))];
    if (to) setMarked(to.id);
  };
  const choose = (spot: string) => now && spot && setChosen((was) => ({ ...was, [now.id]: spot }));
  const offered = now?.offers.slice(0, MOST_SHOWN) ?? [];
  const first = now?.first || 1;
  const last = now?.last || Math.max(1, now?.pages ?? 1);
  const turn = (by: number) => setPage((n) => Math.max(first, Math.min(last, n + by)));
  // papers of another filing are picked and get one of their own
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [other, setOther] = useState<string[]>([]);
  const pick = (piece: string) => {
    const next = new Set(picked);
    if (!next.delete(piece)) next.add(piece);
    setPicked(next);
    go(1);
  };
  const apart = () => setOther(picked.size > 0 ? [...picked] : now ? [now.id] : []);
  useHotkey("p", () => now && pick(now.id), !!view?.counter && !!now);
  useHotkey("m", () => apart(), !!view?.counter && !!now);
  useHotkey("n", () => go(1));
  useHotkey("b", () => go(-1));
  useHotkey("Enter", () => now && !now.same_as && place([now]), !!now && !!spotOf(now));
  useHotkey("g", () => place(placed), placed.length > 0);
  useHotkey("s", () => cut(), page > first);
  useHotkey("j", () => join(), (now?.first ?? 0) > 1);
  useHotkey("x", () => drop(), !!now);
  useHotkey(",", () => turn(-1));
  useHotkey(".", () => turn(1));
  useHotkey("1", () => choose(offered[0]?.spot ?? ""), offered.length > 0);
  useHotkey("2", () => choose(offered[1]?.spot ?? ""), offered.length > 1);
  useHotkey("3", () => choose(offered[2]?.spot ?? ""), offered.length > 2);
  useHotkey("4", () => choose(offered[3]?.spot ?? ""), offered.length > 3);
  useHotkey("5", () => choose(offered[4]?.spot ?? ""), offered.length > 4);

  if (work.instead)
    return (
      <main className="jc-page">
        <ProblemNote error={work.instead} />
      </main>
    );
  if (!view || !pile.data) return <Skeleton lines={9} />;
  const titles = new Map(spots.map((s) => [s.id, s.title]));
  const row = (p: Piece) => (
    <li key={p.id}>
      <button
        type="button"
        className={`pile-piece${p === now ? " marked" : ""}${picked.has(p.id) ? " picked" : ""}`}
        aria-current={p === now}
        {...atMark(p === now)}
        onClick={() => setMarked(p.id)}
      >
        <Tab
          standing={p.same_as ? "not asked" : safe(p) ? "met" : p.offers.length > 0 ? "in doubt" : "to read"}
          given={false}
        />
        <b>{named(p)}</b>
        <span className="pile-sure">{p.offers[0] && !p.same_as ? `${Math.round(p.offers[0].sure * 100)} %` : "–"}</span>
        <span className="second">
          {p.same_as
            ? say("the same as {{name}}", { name: p.same_as })
            : p.opens === "being read"
              ? say("is being read")
              : (titles.get(spotOf(p)) ?? say("no place fits; choose one"))}
        </span>
      </button>
    </li>
  );
  const group = (title: string, some: Piece[]) =>
    some.length > 0 && (
      <section aria-label={title}>
        <h2>
          {title} <span>{some.length}</span>
        </h2>
        <ul>{some.map(row)}</ul>
      </section>
    );
  const own = now && chosen[now.id] && !offered.some((o) => o.spot === chosen[now.id]) ? chosen[now.id] : "";
  const best = now?.offers.find((o) => o.spot === spotOf(now)) ?? now?.offers[0];
  return (
    <div className="pile">
      <header className="pile-head">
        <h1 tabIndex={-1}>{say("Sort what came")}</h1>
        <p className="second">
          {view.form.title}
          {" · "}
          {say("{{papers}} to place", { papers: things(pieces.length, "paper") })}
          {pile.data.reading > 0 && ` · ${say("some are still being read")}`}
        </p>
        <Link className="jc-button plain small" to={`/filing/${id}/documents`}>
          {say("Back to the documents")}
        </Link>
      </header>
      <NotArrived draft={id} />
      {trouble !== null && <ProblemNote error={trouble} />}
      {view.counter && (
        <OtherFiling
          key={other.join()}
          draft={id}
          pieces={other}
          onMoved={() => {
            setPicked(new Set());
            again();
          }}
          onClose={() => setOther([])}
        />
      )}
      {pieces.length === 0 ? (
        <div className="pile-empty">
          {view.counter && <DropAll id={id} work={work} />}
          <p>
            {view.counter && view.files.length === 0 ? say("Nothing came yet.") : say("Everything is placed.")}{" "}
            <Link to={`/filing/${id}/documents`}>{say("See the documents as the office will see them")}</Link>
            {view.counter && (
              <>
                {" · "}
                <Link to={`/filing/${id}`}>{say("Fill in the form")}</Link>
              </>
            )}
          </p>
        </div>
      ) : (
        <div className="pile-body">
          <nav className="pile-list" aria-label={say("Papers")}>
            {group(say("To look at"), toLook)}
            {group(say("Placed, confirm at one go"), placed)}
            {group(say("Not kept twice"), twice)}
          </nav>
          <main className="pile-paper">
            {now && (
              <>
                <p>
                  <b>{now.file.name}</b>{" "}
                  <span className="second">
                    {now.first > 0 &&
                      (now.first === now.last
                        ? say("sheet {{first}} of the file", { first: now.first })
                        : say("sheets {{first}} to {{last}} of the file", { first: now.first, last: now.last }))}{" "}
                    {now.said}
                    {now.within && ` · ${say("from {{within}}", { within: now.within })}`}
                  </span>
                </p>
                {now.told && <p className="second">{now.told}</p>}
                <SheetOf draft={id} piece={now} page={page} onPage={setPage} />
                {last > first && (
                  <p className="pile-sheets">
                    {Array.from({ length: Math.min(60, last - first + 1) }, (_, n) => first + n).map((n) => (
                      <button
                        key={n}
                        type="button"
                        className={`pile-sheet${n === page ? " marked" : ""}`}
                        aria-label={say("Sheet {{n}}", { n })}
                        aria-current={n === page}
                        onClick={() => setPage(n)}
                      >
                        {n}
                      </button>
                    ))}
                  </p>
                )}
                {now.first > 0 && now.cut && <p className="second">{say("Begins here: {{why}}.", { why: now.cut })}</p>}
                <p className="pile-keys second">
                  {page > first && (
                    <button type="button" className="jc-link" onClick={() => cut()}>
                      <Key>S</Key> {say("cut before this sheet")}
                    </button>
                  )}
                  {now.first > 1 && (
                    <button type="button" className="jc-link" onClick={() => join()}>
                      <Key>J</Key> {say("join to the one before")}
                    </button>
                  )}
                  {last > first && (
                    <span>
                      <Key>,</Key> <Key>.</Key> {say("sheet")}
                    </span>
                  )}
                  <button type="button" className="jc-link" onClick={() => drop()}>
                    <Key>X</Key> {say("leave it out")}
                  </button>
                  {view.counter && (
                    <>
                      <button type="button" className="jc-link" onClick={() => pick(now.id)}>
                        <Key>P</Key> {picked.has(now.id) ? say("not picked") : say("pick it")}
                      </button>
                      <button type="button" className="jc-link" onClick={() => apart()}>
                        <Key>M</Key>{" "}
                        {say("another filing, {{papers}}", { papers: things(Math.max(1, picked.size), "paper") })}
                      </button>
                    </>
                  )}
                </p>
              </>
            )}
          </main>
          <aside className="pile-where" aria-label={say("Where does it belong?")}>
            {now && (
              <>
                <h2>{say("Where does it belong?")}</h2>
                {offered.map((o, n) => (
                  <button
                    key={o.spot}
                    type="button"
                    className={`pile-offer${o.spot === spotOf(now) ? " marked" : ""}`}
                    aria-pressed={o.spot === spotOf(now)}
                    onClick={() => choose(o.spot)}
                  >
                    <span>{o.title}</span>
                    <meter min={0} max={1} value={o.sure} aria-label={say("how sure")} />
                    <Key>{n + 1}</Key>
                  </button>
                ))}
                <select
                  aria-label={say("Another place")}
                  value={own}
                  onChange={(e) => choose(e.target.value)}
                  className="pile-other"
                >
                  <option value="">{say("Another place…")}</option>
                  {spots.map((s) => (
                    <option key={s.id} value={s.id}>
                      {s.title}
                    </option>
                  ))}
                </select>
                {best && best.because.length > 0 && (
                  <>
                    <h3>{say("Because")}</h3>
                    <ul>
                      {best.because.map((why) => (
                        <li key={why}>{why}</li>
                      ))}
                    </ul>
                  </>
                )}
                {best && best.but.length > 0 && (
                  <>
                    <h3>{say("And not surer, because")}</h3>
                    <ul>
                      {best.but.map((why) => (
                        <li key={why}>{why}</li>
                      ))}
                    </ul>
                  </>
                )}
                {now.opens === "being read" && (
                  <p role="status">{say("It is being read; a place is offered in a moment.")}</p>
                )}
                {now.same_as ? (
                  <p>
                    {say("This is the same as {{name}}.", { name: now.same_as })}{" "}
                    <button type="button" className="jc-button small" onClick={() => drop()}>
                      {say("Leave it out")} <Key>X</Key>
                    </button>
                  </p>
                ) : (
                  <button type="button" className="jc-button wide" disabled={!spotOf(now)} onClick={() => place([now])}>
                    {say("Confirm, on to the next")} <Key>{say("Enter")}</Key>
                  </button>
                )}
              </>
            )}
          </aside>
        </div>
      )}
      {pieces.length > 0 && (
        <footer className="pile-foot">
          <span className="second">
            <Key>N</Key> <Key>B</Key> {say("next, back")} <Key>1</Key> {say("to")} <Key>5</Key> {say("place")}
          </span>
          <button
            type="button"
            className="jc-button plain"
            disabled={placed.length === 0}
            onClick={() => place(placed)}
          >
            {say("Confirm {{papers}} at one go", { papers: things(placed.length, "paper") })} <Key>G</Key>
          </button>
        </footer>
      )}
    </div>
  );
}
