// Whoever applies: found among those who have an account, or somebody without one, by name and postal address.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { say } from "../shared/text";

export type Applying = { person: string; name: string; address: string; telephone: string };
export const NOBODY: Applying = { person: "", name: "", address: "", telephone: "" };

export function WhoApplies({ value, onChange }: { value: Applying; onChange: (value: Applying) => void }) {
  const [words, setWords] = useState("");
  const found = useQuery({
    queryKey: ["people-found", words],
    queryFn: () => ask(api.GET("/api/counter/people", { params: { query: { words } } })),
    enabled: words.trim().length > 1 && !value.person,
  });
  const rows = words.trim().length > 1 && !value.person ? (found.data ?? []) : [];
  if (value.person)
    return (
      <p className="who-applies">
        <b>{value.name}</b>{" "}
        <button type="button" className="jc-link" onClick={() => onChange(NOBODY)}>
          {say("somebody else")}
        </button>
      </p>
    );
  return (
    <div className="who-applies">
      <label>
        {say("Who applies?")}
        <input
          className="jc-field"
          data-autofocus
          value={value.name}
          maxLength={120}
          autoComplete="off"
          onChange={(e) => {
            setWords(e.target.value);
            onChange({ ...value, name: e.target.value });
          }}
        />
      </label>
      {rows.length > 0 && (
        <ul aria-label={say("People who are known")}>
          {rows.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                onClick={() => {
                  setWords("");
                  onChange({ ...NOBODY, person: p.id, name: p.name });
                }}
              >
                <b>{p.name}</b> <span className="second">{[p.mail, p.address].filter(Boolean).join(" · ")}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      <label>
        {say("Postal address, if there is no account")}
        <input
          className="jc-field"
          value={value.address}
          maxLength={300}
          onChange={(e) => onChange({ ...value, address: e.target.value })}
        />
      </label>
      <label>
        {say("Telephone, if known")}
        <input
          className="jc-field"
          value={value.telephone}
          maxLength={40}
          onChange={(e) => onChange({ ...value, telephone: e.target.value })}
        />
      </label>
    </div>
  );
}
