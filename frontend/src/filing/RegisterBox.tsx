// Finding an entry of a register and taking it over; what cannot be found is typed by hand.
import { useQuery } from "@tanstack/react-query";
import { createContext, useContext, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";
import { PlaceOnMap } from "./PlaceOnMap";
import "./questions.css";

/** The registers that can be asked on a page: with what they are asked, for a repeat by its card. */
export const Asking = createContext<{ work: Work; id: string } | null>(null);

/** For one repeat of a part that a register fills in: a person or a firm is looked for by name before it is typed. */
export function RegisterOfItem({ part, item, called }: { part: Schemas["Part"]; item: number; called: string }) {
  const asking = useContext(Asking);
  const register = part.questions.find((q) => q.register)?.register;
  if (!asking || !register) return null;
  const name = placeOf(register).head;
  return <RegisterBox work={asking.work} id={asking.id} name={name} item={item} called={called} />;
}

export function RegisterBox({
  work,
  id,
  name,
  item = 0,
  called = "",
}: {
  work: Work;
  id: string;
  name: string;
  item?: number;
  called?: string;
}) {
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
            body: { key, item },
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
    <section
      className="filing-register"
      aria-label={`${say("Find it in the {{title}}", { title: title.toLowerCase() })} ${called}`.trim()}
    >
      <label htmlFor={`find-${name}${item ? `-${item}` : ""}`}>
        {say("Find it in the {{title}}", { title: title.toLowerCase() })}{" "}
        <span className="second">{say("by a number, a name or an address; or fill in below by hand")}</span>
      </label>
      <input
        id={`find-${name}${item ? `-${item}` : ""}`}
        value={words}
        onChange={(e) => setWords(e.target.value)}
        autoComplete="off"
      />
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
