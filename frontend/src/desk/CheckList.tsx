// The checklist: what is still open, by parts; what is judged or not asked is folded; a part that is shown as a table is one line.
import { useEffect } from "react";
import { marked } from "../shared/keys";
import { Key, Tab } from "../shared/Marks";
import { say } from "../shared/text";
import { beneath, type Requirement } from "./checks";
import { KEY } from "./deskKeys";
import { type ItemTable, inRows } from "./ItemsTable";
import "./checklist.css";

/** A part of the list, with its requirements or with the table that stands for them. */
export type Section = { id: string; title: string; rows: Requirement[]; table?: ItemTable };

export function CheckList({
  sections,
  chosen,
  onChoose,
  judged,
  asked,
  folded,
  all,
  onAll,
  onAnswers,
}: {
  sections: Section[];
  chosen: string;
  onChoose: (id: string) => void;
  judged: number;
  asked: number;
  /** How many are folded away: judged before, or not asked. */
  folded: { judged: number; notAsked: number };
  all: boolean;
  onAll: () => void;
  onAnswers?: () => void;
}) {
  useEffect(() => {
    document.getElementById(`check-${chosen}`)?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const order = sections.flatMap((s) => [...s.rows, ...(s.table ? inRows(s.table) : [])]);
  const at = order.findIndex((r) => r.id === chosen) + 1;
  const hidden = [
    folded.judged > 0 && say("{{count}} judged", { count: folded.judged }),
    folded.notAsked > 0 && say("{{count}} not asked", { count: folded.notAsked }),
  ].filter(Boolean);
  return (
    <nav className="desk-list" aria-label={say("Checklist")}>
      <h2>
        {onAnswers && (
          <button type="button" className="jc-link" onClick={onAnswers}>
            {say("Answers")} <Key>{KEY.other.toUpperCase()}</Key>
          </button>
        )}{" "}
        {say("Checklist")} <span>{say("{{judged}} of {{asked}} judged", { judged, asked })}</span>
      </h2>
      {(hidden.length > 0 || all) && (
        <p className="desk-folded">
          <button type="button" className="jc-link quiet" onClick={onAll}>
            {all ? say("only what is open") : say("{{what}}: show", { what: hidden.join(", ") })}
          </button>
        </p>
      )}
      {sections.map(({ id, title, rows, table }) => {
        const own = table ? inRows(table) : [];
        const here = own.some((r) => r.id === chosen);
        return (
          <section key={id}>
            <h3>{title}</h3>
            {table && (
              <button
                type="button"
                className={`desk-check${here ? " chosen" : ""}`}
                aria-current={here || undefined}
                onClick={() => onChoose((own.find((r) => !r.judged) ?? own[0])?.id ?? "")}
              >
                <Tab standing={worst(own)} given={own.every((r) => r.judged)} />
                <span>
                  {say("Table of {{rows}}", { rows: table.rows.length })}
                  <small>
                    {say("{{judged}} of {{asked}} judged", {
                      judged: own.filter((r) => r.judged).length,
                      asked: own.length,
                    })}
                  </small>
                </span>
                {here && (
                  <kbd>
                    {at}/{order.length}
                  </kbd>
                )}
              </button>
            )}
            {rows.map((r) => (
              <button
                key={r.id}
                id={`check-${r.id}`}
                type="button"
                className={`desk-check${r.id === chosen ? " chosen" : ""}${r.asked ? "" : " quiet"}`}
                aria-current={r.id === chosen || undefined}
                {...marked(r.id === chosen)}
                onClick={() => onChoose(r.id)}
              >
                <Tab standing={r.overruled ? "overruled" : r.standing} given={r.judged} />
                <span>
                  {r.title}
                  <small>{beneath(r)}</small>
                </span>
                {r.id === chosen && (
                  <kbd>
                    {at}/{order.length}
                  </kbd>
                )}
              </button>
            ))}
          </section>
        );
      })}
    </nav>
  );
}

const WORST_FIRST = ["wanting", "in doubt", "to read", "met"] as const;

/** What a table as a whole looks like: the worst of what stands in it. */
function worst(own: Requirement[]): string {
  return WORST_FIRST.find((standing) => own.some((r) => r.standing === standing)) ?? "met";
}
