// Who of the office has what: open cases by officer with the limit that comes first, who is away and who stands in.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { Absences } from "./Absences";
import { Approvals } from "./Approvals";
import { Feeds } from "./Feeds";
import "./people.css";

export function Load() {
  const session = useSession();
  const queries = useQueryClient();
  const rows = useQuery({ queryKey: ["load"], queryFn: () => ask(api.GET("/api/load")), refetchInterval: 60_000 });
  const leads = session.data?.may?.pages.includes("people") ?? false;
  const [became, setBecame] = useState<Schemas["Became"][] | null>(null);
  const move = useMutation({
    mutationFn: (body: { officer: string; to: string; because: string }) => ask(api.POST("/api/load", { body })),
    onSuccess: (done) => {
      setBecame(done);
      queries.invalidateQueries({ queryKey: ["load"] });
      queries.invalidateQueries({ queryKey: ["tray"] });
    },
  });
  const refused = became?.filter((one) => one.refused) ?? [];
  return (
    <main className="jc-page people">
      <h1>{say("Who has what")}</h1>
      {leads && <Approvals />}
      <ProblemNote error={rows.error ?? move.error} />
      {rows.isPending && <Skeleton lines={5} />}
      {became && (
        <p role="status">
          {say("{{cases}} went over.", { cases: things(became.length - refused.length, "case") })}{" "}
          {refused.map((one) => `${one.reference}: ${one.refused}`).join(" ")}
        </p>
      )}
      {rows.data && (
        <div className="people-wide">
          <table>
            <thead>
              <tr>
                <th scope="col">{say("Officer")}</th>
                <th scope="col" className="num">
                  {say("Open")}
                </th>
                <th scope="col" className="num">
                  {say("With us now")}
                </th>
                <th scope="col">{say("Comes first")}</th>
                <th scope="col">{say("Away")}</th>
                {leads && <th scope="col">{say("Give all to")}</th>}
              </tr>
            </thead>
            <tbody>
              {rows.data.map((row) => (
                <tr key={row.person}>
                  <th scope="row">{row.person ? row.name : say("nobody yet")}</th>
                  <td className="num mono">{row.open}</td>
                  <td className="num mono">{row.ours}</td>
                  <td>
                    {row.nearest && row.limit_day && (
                      <>
                        {day(row.limit_day)} <Link to={`/desk/${row.nearest}`}>{row.nearest}</Link>
                      </>
                    )}
                  </td>
                  <td>
                    {row.away_until &&
                      say("until {{day}}, {{deputy}} stands in", { day: day(row.away_until), deputy: row.deputy })}
                  </td>
                  {leads && (
                    <td>
                      {row.open > 0 && (
                        <GiveAll
                          row={row}
                          others={rows.data.filter((other) => other.person && other.person !== row.person)}
                          busy={move.isPending}
                          onGive={(to) => move.mutate({ officer: row.person, to, because: "" })}
                        />
                      )}
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Feeds />
      <Absences people={rows.data?.filter((row) => row.person) ?? []} />
    </main>
  );
}

function GiveAll({
  row,
  others,
  busy,
  onGive,
}: {
  row: Schemas["Load"];
  others: Schemas["Load"][];
  busy: boolean;
  onGive: (to: string) => void;
}) {
  const [to, setTo] = useState("");
  const whose = row.person ? row.name : say("nobody yet");
  return (
    <form
      className="load-give"
      onSubmit={(e) => {
        e.preventDefault();
        onGive(to);
        setTo("");
      }}
    >
      <select
        aria-label={say("To whom the cases of {{whose}} go", { whose })}
        value={to}
        onChange={(e) => setTo(e.target.value)}
      >
        <option value="">{say("choose")}</option>
        {others.map((other) => (
          <option key={other.person} value={other.person}>
            {other.name}
          </option>
        ))}
      </select>
      <button type="submit" className="jc-button plain small" disabled={to === "" || busy}>
        {say("Give")}
        <span className="jc-hidden">: {whose}</span>
      </button>
    </form>
  );
}
