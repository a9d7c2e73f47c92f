// Finding an entry of a register and taking it over; what cannot be found is typed by hand.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";
import { PlaceOnMap } from "./PlaceOnMap";
import "./questions.css";

export function RegisterBox({ work, id, name }: { work: Work; id: string; name: string }) {
  const [words, setWords] = useState("");
  const [trouble, setTrouble] = useState<unknown>(null);
  const view = work.view;
  const wanted = words.trim();
  const found = useQuery({
    queryKey: ["register", id, name, wanted],
    queryFn: () =>
      ask(
        api.GET("/api/drafts/{draft}/registers/{name}", {
          params: { path: { draft: id, name }, query: { words: wanted } },
        }),
      ),
    enabled: wanted.length > 1,
  });
  if (!view) return null;
  const title = view.form.registers[name] ?? name;
  async function take(key: string) {
    setTrouble(null);
    try {
      await work.change((seen) =>
        ask(
          api.POST("/api/drafts/{draft}/registers/{name}", {
            params: { path: { draft: id, name } },
            headers: seen,
            body: { key },
          }),
        ),
      );
      work.forget();
      setWords("");
    } catch (error) {
      setTrouble(error);
    }
  }
  const rows = wanted.length > 1 ? (found.data?.rows ?? []) : [];
  const shown = Object.keys(found.data?.columns ?? {});
  return (
    <section className="filing-register" aria-label={say("Find it in the {{title}}", { title: title.toLowerCase() })}>
      <label htmlFor={`find-${name}`}>
        {say("Find it in the {{title}}", { title: title.toLowerCase() })}{" "}
        <span className="second">{say("by a number, a name or an address; or fill in below by hand")}</span>
      </label>
      <input id={`find-${name}`} value={words} onChange={(e) => setWords(e.target.value)} autoComplete="off" />
      {view.form.measures[name] && <PlaceOnMap work={work} id={id} name={name} onTake={take} />}
      {found.data?.trouble && wanted.length > 1 && <p className="ochre">{found.data.trouble}</p>}
      {rows.length > 0 && (
        <ul>
          {rows.map((row) => (
            <li key={shown.map((c) => row[c]).join("|")}>
              <button type="button" onClick={() => take(row[shown[0] ?? ""] ?? "")}>
                <b className="mono">{row[shown[0] ?? ""]}</b>{" "}
                {shown
                  .slice(1, 3)
                  .map((c) => row[c])
                  .join(", ")}
              </button>
            </li>
          ))}
        </ul>
      )}
      {found.isSuccess && !found.data.trouble && wanted.length > 1 && rows.length === 0 && (
        <p className="second">{say("Nothing is called that. Fill it in by hand; the officer will look.")}</p>
      )}
      {view.dossier.by_hand.includes(name) && (
        <p className="ochre">
          {say("The {{title}} did not answer; what you type is checked by the officer.", {
            title: title.toLowerCase(),
          })}
        </p>
      )}
      <ProblemNote error={trouble} />
    </section>
  );
}
