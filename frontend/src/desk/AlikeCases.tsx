// Cases that are alike, below the rule: filed twice perhaps, about the same thing, of the same person; laid side by side.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day } from "../shared/say";
import { say } from "../shared/text";
import "./alike-cases.css";

type Alike = Schemas["AlikeCase"];
const HOW: [Alike["how"], string][] = [
  ["duplicate", say("Filed twice, perhaps")],
  ["thing", say("About the same thing")],
  ["person", say("Of the same person")],
];

const useAlike = (reference: string) =>
  useQuery({
    queryKey: ["other-cases", reference],
    queryFn: () => ask(api.GET("/api/cases/{reference}/other-cases", { params: { path: { reference } } })),
    staleTime: 60_000,
  });

/** Above the rule: only what one has to know before one judges. */
export function AlikeHint({ reference }: { reference: string }) {
  const told = useAlike(reference).data;
  const twice = told?.cases.filter((one) => one.how === "duplicate") ?? [];
  if (twice.length === 0 && !told?.other_name) return null;
  return (
    <p className="alike-name">
      {twice.length > 0 &&
        say("Filed twice, perhaps: see {{cases}} below.", { cases: twice.map((one) => one.reference).join(", ") })}{" "}
      {told?.other_name}
    </p>
  );
}

export function AlikeCases({ reference }: { reference: string }) {
  const [beside, setBeside] = useState("");
  const told = useAlike(reference);
  const cases = told.data?.cases ?? [];
  const more = told.data?.more ?? 0;
  if (cases.length === 0) return null;
  return (
    <section className="alike-cases" aria-label={say("Other cases")}>
      {HOW.map(([how, title]) => {
        const own = cases.filter((one) => one.how === how);
        if (own.length === 0) return null;
        return (
          <details key={how} open={how === "duplicate"}>
            <summary className={how === "duplicate" ? "madder" : ""}>
              {title} ({own.length})
            </summary>
            <ul>
              {own.map((one) => (
                <li key={one.reference}>
                  <Link to={`/desk/${one.reference}`}>
                    <span className="mono">{one.reference}</span> {one.title}
                  </Link>{" "}
                  <i className="alike-state">{one.state}</i>
                  <span className="second">
                    {day(one.filed)} · {one.because.join("; ")}
                  </span>
                  {one.compared && how !== "person" && (
                    <button type="button" className="jc-link" onClick={() => setBeside(one.reference)}>
                      {say("side by side")}
                      <span className="jc-hidden"> {one.reference}</span>
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </details>
        );
      })}
      {more > 0 && (
        <p className="second">
          {more === 1
            ? say("One more case is alike, and less so.")
            : say("{{count}} more cases are alike, and less so.", { count: more })}
        </p>
      )}
      <SideBySide reference={reference} other={beside} onClose={() => setBeside("")} />
    </section>
  );
}

function SideBySide({ reference, other, onClose }: { reference: string; other: string; onClose: () => void }) {
  const rows = useQuery({
    queryKey: ["other-cases", reference, other],
    queryFn: () =>
      ask(api.GET("/api/cases/{reference}/other-cases/{other}", { params: { path: { reference, other } } })),
    enabled: other !== "",
  });
  const [all, setAll] = useState(false);
  const shown = (rows.data ?? []).filter((row) => all || !row.same);
  return (
    <Dialog title={say("{{one}} beside {{other}}", { one: reference, other })} opened={other !== ""} onClose={onClose}>
      <div className="alike-beside">
        <ProblemNote error={rows.error} />
        {rows.isPending && <Skeleton lines={5} />}
        <p>
          <label>
            <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} />{" "}
            {say("what is the same, too")}
          </label>
        </p>
        {rows.data && shown.length === 0 && <p>{say("Every answer is the same.")}</p>}
        {shown.length > 0 && (
          <table>
            <thead>
              <tr>
                <th scope="col">{say("Question")}</th>
                <th scope="col" className="mono">
                  {reference}
                </th>
                <th scope="col" className="mono">
                  {other}
                </th>
              </tr>
            </thead>
            <tbody>
              {shown.map((row) => (
                <tr key={row.label} className={row.same ? "" : "differs"}>
                  <th scope="row">{row.label}</th>
                  <td>{row.mine || say("not answered")}</td>
                  <td>{row.other || say("not answered")}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </Dialog>
  );
}
