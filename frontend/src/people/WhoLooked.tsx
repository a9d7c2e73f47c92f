// For auditors and leads: who looked at what and when, searched by person, reference and days.
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { exactly } from "../shared/say";
import { say } from "../shared/text";
import "./people.css";

export function WhoLooked() {
  const [words, setWords] = useState("");
  const [first, setFirst] = useState("");
  const [last, setLast] = useState("");
  const found = useInfiniteQuery({
    queryKey: ["looks", words, first, last],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/looks", {
          params: { query: { words, first: first || undefined, last: last || undefined, after: pageParam } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.after || undefined,
  });
  useHeading(found.isSuccess);
  const rows = found.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <main className="jc-page people">
      <h1 tabIndex={-1}>{say("Who looked at what")}</h1>
      <p className="second">
        {say(
          "Each way of looking at something personal is noted: cases, files, letters, lists, searches. Kept for two years.",
        )}
      </p>
      <form className="people-new" role="search" onSubmit={(e) => e.preventDefault()}>
        <label>
          {say("Person or reference")} <input value={words} maxLength={80} onChange={(e) => setWords(e.target.value)} />
        </label>
        <label>
          {say("From")} <input type="date" value={first} onChange={(e) => setFirst(e.target.value)} />
        </label>
        <label>
          {say("Until")} <input type="date" value={last} onChange={(e) => setLast(e.target.value)} />
        </label>
      </form>
      <ProblemNote error={found.error} />
      {found.isPending && <Skeleton lines={6} />}
      {found.isSuccess && rows.length === 0 && <p>{say("Nobody looked.")}</p>}
      {rows.length > 0 && (
        <div className="people-wide">
          <table>
            <thead>
              <tr>
                <th scope="col">{say("When")}</th>
                <th scope="col">{say("Who")}</th>
                <th scope="col">{say("At what")}</th>
                <th scope="col">{say("Case")}</th>
                <th scope="col">{say("Which")}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row, n) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the same look may be noted twice in a moment
                <tr key={`${row.at} ${n}`}>
                  <td>{exactly(row.at)}</td>
                  <td>{row.who}</td>
                  <td>{row.what}</td>
                  <td className="mono">
                    {row.reference && <Link to={`/desk/${row.reference}`}>{row.reference}</Link>}
                  </td>
                  <td>{row.detail}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {found.hasNextPage && (
        <button type="button" className="jc-button plain" onClick={() => found.fetchNextPage()}>
          {say("More")}
        </button>
      )}
    </main>
  );
}
