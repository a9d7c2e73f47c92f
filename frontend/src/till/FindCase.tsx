// A case is looked for by reference, person or place, and taken with what it awaits.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { amount, sign } from "../shared/say";
import { say } from "../shared/text";

export type CaseAtTill = Schemas["CaseAtTill"];

export const caseAtTill = (reference: string) =>
  ask(api.GET("/api/till/cases/{reference}", { params: { path: { reference } } }));

/** A field that finds cases; the first is taken with Enter. */
export function FindCase({ label, id, onCase }: { label: string; id?: string; onCase: (found: CaseAtTill) => void }) {
  const [words, setWords] = useState("");
  const wanted = words.trim();
  const found = useQuery({
    queryKey: ["search", words],
    queryFn: () => ask(api.GET("/api/search", { params: { query: { words } } })),
    enabled: wanted.length > 1,
  });
  const rows = wanted.length > 1 ? (found.data ?? []).filter((row) => !row.kept).slice(0, 6) : [];
  const take = async (reference: string) => {
    const told = await caseAtTill(reference);
    setWords("");
    onCase(told);
  };
  return (
    <div className="find-case">
      <input
        id={id}
        aria-label={label}
        placeholder={label}
        value={words}
        autoComplete="off"
        onChange={(e) => setWords(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") {
            setWords("");
            e.currentTarget.blur();
          }
          if (e.key === "Enter" && rows[0]) {
            e.preventDefault();
            e.currentTarget.blur();
            take(rows[0].reference);
          }
        }}
      />
      {wanted.length > 1 && (
        <ul>
          {rows.map((row) => (
            <li key={row.reference}>
              <button type="button" onClick={() => take(row.reference)}>
                <span className="mono">{row.reference}</span> {row.title}{" "}
                {!row.title.includes(row.applicant) && <small>{row.applicant}</small>}
              </button>
            </li>
          ))}
          {found.isSuccess && rows.length === 0 && <li className="second">{say("No case matches.")}</li>}
        </ul>
      )}
    </div>
  );
}

/** What a case awaits, in words. */
export function awaits(of: { awaited: string; currency: string }): string {
  return Number(of.awaited) > 0
    ? say("awaits {{amount}}", { amount: `${sign(of.currency)} ${amount(of.awaited)}` })
    : say("awaits nothing now");
}
