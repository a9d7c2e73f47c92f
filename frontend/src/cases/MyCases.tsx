// What waits for one, what runs, and what one is preparing.
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Stamp, TimeLeft } from "../shared/Marks";
import { More, usePages } from "../shared/More";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, since } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { takeWayIn } from "../wayin/kept";
import "./cases.css";

type Row = Omit<Schemas["Row"], "squares">;
type Place = Omit<Schemas["PlacePage"], "rows"> & { rows: Row[] };

/** One's cases at a place: the first page, and those that were asked for. */
function usePlace(place: Schemas["PlacePage"]["place"], all?: Place[]) {
  const first = all?.find((at) => at.place === place) ?? { count: 0, rows: [], after: "" };
  const pages = usePages<Row>(["my-cases", "more", place], first, (after) =>
    ask(api.GET("/api/my-cases/more", { params: { query: { place, after } } })),
  );
  return { ...pages, count: first.count };
}

export function MyCases() {
  const session = useSession();
  const cases = useQuery({ queryKey: ["my-cases"], queryFn: () => ask(api.GET("/api/my-cases")) });
  const drafts = useQuery({ queryKey: ["drafts"], queryFn: () => ask(api.GET("/api/drafts")), staleTime: 0 });
  const navigate = useNavigate();
  useEffect(() => {
    // somebody who came from the way in begins with what it was told
    const kept = takeWayIn();
    if (kept)
      ask(api.POST("/api/drafts", { body: kept }))
        .then(({ id }) => navigate(`/filing/${id}`))
        .catch(() => navigate("/new"));
  }, [navigate]);
  const waiting = usePlace("waiting", cases.data);
  const running = usePlace("running", cases.data);
  const ended = usePlace("closed", cases.data);
  return (
    <main className="jc-page cases">
      <h1>{say("Hello, {{first_name}}", { first_name: session.data?.person?.first_name })}</h1>
      <ProblemNote error={cases.error ?? drafts.error} />
      {cases.isPending && <Skeleton lines={6} />}
      {cases.data && (
        <section aria-label={say("Waiting for you")}>
          <h2>
            {say("Waiting for you")} <span>{waiting.count}</span>
          </h2>
          {waiting.count === 0 && (
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
          <More pages={waiting} />
        </section>
      )}
      {drafts.data && drafts.data.length > 0 && (
        <section aria-label={say("You are preparing")}>
          <h2>
            {say("You are preparing")} <span>{drafts.data.length}</span>
          </h2>
          {drafts.data.map((d) => (
            <Link key={d.id} to={`/filing/${d.id}`} className="cases-row">
              <span className="cases-what">
                <b>{d.title}</b>
                <small>
                  {d.kind_title}
                  {d.own_reference && ` · “${d.own_reference}”`}
                </small>
              </span>
              <span className="second">{say("kept {{kept_at}}", { kept_at: since(d.kept_at) })}</span>
              <Stamp state={d.state} small />
              <span className="cases-left">
                {d.left ? (
                  <b className="madder">{say("{{left}} left", { left: things(d.left, "thing") })}</b>
                ) : (
                  <b className="moss">{say("ready to file")}</b>
                )}
              </span>
            </Link>
          ))}
        </section>
      )}
      {cases.data && (
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
            <Link key={c.reference} to={`/cases/${c.reference}`} className="cases-row">
              <span className="cases-what">
                <b>{c.title}</b>
                <small>{c.next}</small>
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
    </main>
  );
}
