// Cases that were picked in the in-tray: given to somebody, or handed over, all at once; and one that is taken over.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";
import "./tray.css";
import "./picked.css";

/** Everything that a list of cases is shown in is fetched anew. */
function useAnew() {
  const queries = useQueryClient();
  return () => {
    for (const key of ["tray", "summary", "load"]) queries.invalidateQueries({ queryKey: [key] });
  };
}

export function useColleagues(wanted: boolean) {
  return useQuery({ queryKey: ["colleagues"], queryFn: () => ask(api.GET("/api/colleagues")), enabled: wanted });
}

export function Picked({ picked, onDone }: { picked: ReadonlySet<string>; onDone: () => void }) {
  const anew = useAnew();
  const people = useColleagues(picked.size > 0);
  const [to, setTo] = useState("");
  const [refused, setRefused] = useState<Schemas["Became"][]>([]);
  const go = useMutation({
    mutationFn: () => {
      const [what, id] = [to.slice(0, 1), to.slice(1)];
      const body = { references: [...picked], to: id, because: "" };
      return what === "r"
        ? ask(api.POST("/api/cases-handed-over", { body }))
        : ask(api.POST("/api/cases-assigned", { body }));
    },
    onSuccess: (done) => {
      setRefused(done.filter((one) => one.refused));
      setTo("");
      onDone();
      anew();
    },
  });
  if (picked.size === 0 && refused.length === 0) return null;
  return (
    <section className="tray-picked" aria-label={say("Picked cases")}>
      {picked.size > 0 && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            go.mutate();
          }}
        >
          <b>{say("{{cases}} picked", { cases: things(picked.size, "case") })}</b>
          <label htmlFor="picked-to">{say("give to")}</label>
          <select id="picked-to" value={to} onChange={(e) => setTo(e.target.value)}>
            <option value="">{say("choose")}</option>
            <optgroup label={say("Officers")}>
              {people.data?.officers.map((o) => (
                <option key={o.id} value={`o${o.id}`}>
                  {o.name}
                </option>
              ))}
              <option value="o">{say("nobody")}</option>
            </optgroup>
            <optgroup label={say("Hand over to a reviewer")}>
              {people.data?.reviewers.map((r) => (
                <option key={r.id} value={`r${r.id}`}>
                  {r.name}
                </option>
              ))}
            </optgroup>
          </select>
          <button type="submit" className="jc-button small" disabled={to === "" || go.isPending}>
            {say("Do it")}
          </button>
          <button type="button" className="jc-link" onClick={onDone}>
            {say("pick none")}
          </button>
        </form>
      )}
      <ProblemNote error={go.error} />
      {refused.length > 0 && (
        <ul role="status">
          {refused.map((one) => (
            <li key={one.reference}>
              <span className="mono">{one.reference}</span> {one.refused}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Who has a case, and taking it over from the in-tray. */
export function Owner({ row, me }: { row: Pick<Schemas["Row"], "reference" | "officer" | "officer_id">; me: string }) {
  const anew = useAnew();
  const take = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/cases-assigned", { body: { references: [row.reference], to: me, because: "" } })),
    onSuccess: anew,
  });
  const refused = take.data?.[0]?.refused;
  if (row.officer_id === me) return <span className="second">{say("with you")}</span>;
  return (
    <span>
      <span className="second">
        {row.officer ? say("with {{officer}}", { officer: row.officer }) : say("nobody has it yet")}
      </span>{" "}
      <button type="button" className="jc-link" disabled={take.isPending} onClick={() => take.mutate()}>
        {say("take it over")}
      </button>
      {refused && <span role="status"> {refused}</span>}
      <ProblemNote error={take.error} />
    </span>
  );
}
