// What waits for one, what runs, and what one is preparing.
import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { beginFiling } from "../filing/beginning";
import { BeginKind } from "../filing/FindKind";
import { LanguageSwitch } from "../filing/LanguageSwitch";
import { OfferedToMe } from "../filing/Transfer";
import { MyPermits } from "../permits/MyPermits";
import { Stamp, TimeLeft } from "../shared/Marks";
import { More, usePages } from "../shared/More";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, since } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { takeWayIn } from "../wayin/kept";
import { ActingIn } from "./ActingIn";
import { InvitedTo } from "./InvitedTo";
import "./cases.css";

type Row = Omit<Schemas["Row"], "squares">;
type Draft = Schemas["DraftRow"];
type Place = Omit<Schemas["PlacePage"], "rows"> & { rows: Row[] };

/** One's cases at a place: the first page, and those that were asked for. */
function usePlace(place: Schemas["PlacePage"]["place"], all?: Place[]) {
  const first = all?.find((at) => at.place === place) ?? { count: 0, rows: [], after: "" };
  const pages = usePages<Row>(["my-cases", "more", place], first, (after) =>
    ask(api.GET("/api/my-cases/more", { params: { query: { place, after } } })),
  );
  return { ...pages, count: first.count };
}

/** Drafts by their folders, those without one first. */
function folders(drafts: Draft[]): [string, Draft[]][] {
  const names = [...new Set(drafts.map((d) => d.folder))].sort((a, b) => a.localeCompare(b));
  return names.map((name) => [name, drafts.filter((d) => d.folder === name)]);
}

function DraftFolder({ name, drafts }: { name: string; drafts: Draft[] }) {
  const rows = drafts.map((d) => <DraftRow key={d.id} draft={d} />);
  if (!name) return <>{rows}</>;
  return (
    <details className="cases-folder" open>
      <summary>
        {name} <span className="second">{drafts.length}</span>
      </summary>
      {rows}
    </details>
  );
}

function DraftRow({ draft: d }: { draft: Draft }) {
  return (
    <Link to={`/filing/${d.id}`} className="cases-row">
      <span className="cases-what">
        <b>{d.title}</b>
        <small>
          {d.answers_case ? d.next : d.kind_title}
          {d.own_reference && ` · “${d.own_reference}”`}
        </small>
      </span>
      <span className="second">
        {d.answers_case && (
          <>
            <span className="mono">{d.answers_case}</span>
            <br />
          </>
        )}
        {say("kept {{kept_at}}", { kept_at: since(d.kept_at) })}
      </span>
      <Stamp state={d.state} small />
      <span className="cases-left">
        {d.left ? (
          <b className="madder">{say("{{left}} left", { left: things(d.left, "thing") })}</b>
        ) : (
          <b className="moss">{say("ready to file")}</b>
        )}
      </span>
    </Link>
  );
}

function RunningRow({ row: c }: { row: Row }) {
  return (
    <Link to={c.kept ? `/kept/${c.reference}` : `/cases/${c.reference}`} className="cases-row">
      <span className="cases-what">
        <b>{c.title}</b>
        <small>
          {c.next}
          {c.own_reference && ` · “${c.own_reference}”`}
        </small>
      </span>
      <span className="mono">{c.reference}</span>
      <Stamp state={c.state} small />
      <span className="cases-left">
        <small>
          {c.limit_day &&
            (c.step === "decision"
              ? say("decision planned by {{day}}", { day: day(c.limit_day) })
              : say("checked by {{day}}", { day: day(c.limit_day) }))}
        </small>
      </span>
    </Link>
  );
}

/** Among everything of one's own: what is prepared and what is filed in which all the words stand. */
function FindOwn({ words }: { words: string }) {
  const found = useQuery({
    queryKey: ["my-filings", words],
    queryFn: () => ask(api.GET("/api/my-filings", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  const { drafts = [], cases = [] } = found.data ?? {};
  return (
    <section aria-label={say("Found among your own")}>
      <h2>
        {say("Found among your own")} <span>{drafts.length + cases.length}</span>
      </h2>
      <ProblemNote error={found.error} />
      {found.data && drafts.length + cases.length === 0 && (
        <p className="second">{say("Nothing of yours has all of these words.")}</p>
      )}
      {drafts.map((d) => (
        <DraftRow key={d.id} draft={d} />
      ))}
      {cases.map((c) => (
        <RunningRow key={c.reference} row={c} />
      ))}
    </section>
  );
}

export function MyCases() {
  const [words, setWords] = useState("");
  const [wanted] = useDebouncedValue(words.trim(), 250);
  const session = useSession();
  const cases = useQuery({ queryKey: ["my-cases"], queryFn: () => ask(api.GET("/api/my-cases")) });
  const drafts = useQuery({ queryKey: ["drafts"], queryFn: () => ask(api.GET("/api/drafts")), staleTime: 0 });
  const messages = useQuery({ queryKey: ["my-messages"], queryFn: () => ask(api.GET("/api/my-messages")) });
  const navigate = useNavigate();
  useEffect(() => {
    // somebody who came from the way in begins with what it was told
    const kept = takeWayIn();
    if (kept)
      beginFiling(kept)
        .then((id) => navigate(`/filing/${id}`))
        .catch(() => navigate("/new"));
  }, [navigate]);
  const thrown = useLocation().state as { thrownAway: string; title: string } | null;
  const bringBack = useMutation({
    mutationFn: (draft: string) => ask(api.POST("/api/drafts/{draft}/undo", { params: { path: { draft } } })),
    onSuccess: () => drafts.refetch(),
  });
  const unread = messages.data ?? [];
  const waiting = usePlace("waiting", cases.data);
  const running = usePlace("running", cases.data);
  const ended = usePlace("closed", cases.data);
  const newcomer = cases.data && drafts.data && waiting.count + running.count + ended.count + drafts.data.length === 0;
  return (
    <main className="jc-page cases">
      <div className="cases-language">
        <LanguageSwitch />
      </div>
      <h1>{say("Hello, {{first_name}}", { first_name: session.data?.person?.first_name })}</h1>
      <ProblemNote error={cases.error ?? drafts.error ?? bringBack.error} />
      {cases.data && !newcomer && (
        <TextInput
          className="cases-find"
          type="search"
          aria-label={say("Find among your own")}
          placeholder={say("Find among your own: reference, person, place…")}
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      )}
      {wanted.length > 1 && <FindOwn words={wanted} />}
      {session.data?.person?.guest && (
        <p className="cases-guest">
          {say("You came by an invitation: you can look, and sign or pay where you were asked to.")}{" "}
          <Link to="/account">{say("Set a password to do more, and to have filings of your own.")}</Link>
        </p>
      )}
      <OfferedToMe />
      <MyPermits />
      <InvitedTo />
      {thrown?.thrownAway && !bringBack.isSuccess && (
        <p className="filing-undo" role="status">
          {say("“{{title}}” was thrown away. It can be brought back for a week.", { title: thrown.title })}{" "}
          <button type="button" className="jc-button plain small" onClick={() => bringBack.mutate(thrown.thrownAway)}>
            {say("Undo")}
          </button>
        </p>
      )}
      {cases.isPending && <Skeleton lines={6} />}
      {newcomer && (
        <section className="cases-newcomer">
          <p>
            {say(
              "Here you prepare an application, file it, pay for it, answer what the office asks, and see who has it. You have none yet.",
            )}
          </p>
          <BeginKind level="h2" />
        </section>
      )}
      {cases.data && !newcomer && (
        <section aria-label={say("Waiting for you")}>
          <h2>
            {say("Waiting for you")} <span>{waiting.count + unread.length}</span>
          </h2>
          {unread.map((m) => (
            <Link key={`message ${m.reference}`} to={`/cases/${m.reference}#messages`} className="cases-row urgent">
              <span className="cases-what">
                <b>{say("A message from {{who}}", { who: m.who })}</b>
                <small>{m.title}</small>
              </span>
              <span className="mono">{m.reference}</span>
              <span />
              <span className="cases-left second">{since(m.at)}</span>
            </Link>
          ))}
          {waiting.count + unread.length === 0 && (
            <p className="second">{say("Nothing waits for you. The office tells you when something does.")}</p>
          )}
          {waiting.rows.map((c) => (
            <Link
              key={c.reference}
              to={c.pays ? `/cases/${c.reference}/pay` : `/cases/${c.reference}`}
              className="cases-row urgent"
            >
              <span className="cases-what">
                <b>{c.next}</b>
                <small>{c.title}</small>
              </span>
              <span className="mono">{c.reference}</span>
              <Stamp state={c.state} small />
              <span className="cases-left">
                <TimeLeft time={c.time_left} quiet />
                <small>
                  {c.limit_of && `${c.limit_of}: `}
                  {c.limit_day && say("until the end of {{day}}", { day: day(c.limit_day) })}
                </small>
              </span>
            </Link>
          ))}
          {waiting.rows.filter((c) => c.pays).length > 1 && (
            <p>
              <Link to="/pay" className="jc-button plain">
                {say("Pay several at once")}
              </Link>
            </p>
          )}
          <More pages={waiting} />
        </section>
      )}
      {drafts.data && drafts.data.length > 0 && (
        <section aria-label={say("You are preparing")}>
          <h2>
            {say("You are preparing")} <span>{drafts.data.length}</span>
          </h2>
          {folders(drafts.data).map(([folder, inside]) => (
            <DraftFolder key={folder} name={folder} drafts={inside} />
          ))}
        </section>
      )}
      {cases.data && !newcomer && (
        <section aria-label={say("With the office")}>
          <h2>
            {say("With the office")} <span>{running.count}</span>
          </h2>
          {running.count === 0 && (
            <p className="second">
              {say("Nothing yet.")} <Link to="/new">{say("Begin a filing")}</Link>
            </p>
          )}
          {running.rows.map((c) => (
            <RunningRow key={c.reference} row={c} />
          ))}
          <More pages={running} />
        </section>
      )}
      {ended.count > 0 && (
        <section aria-label={say("Closed")}>
          <h2>
            {say("Closed")} <span>{ended.count}</span>
          </h2>
          {ended.rows.map((c) => (
            <Link
              key={c.reference}
              to={c.kept ? `/kept/${c.reference}` : `/cases/${c.reference}`}
              className="cases-row"
            >
              <span className="cases-what">
                <b>{c.title}</b>
                <small>{c.next}</small>
              </span>
              <span className="mono">{c.reference}</span>
              <Stamp state={c.state} small />
              <span />
            </Link>
          ))}
          <More pages={ended} />
        </section>
      )}
      <ActingIn />
    </main>
  );
}
