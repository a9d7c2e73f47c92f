// What lies beside the documents: the registers' answers, messages and notes, the line of time.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask } from "../api/client";
import { useChangeCase } from "../shared/caseView";
import { Messages } from "../shared/Messages";
import { ProblemNote } from "../shared/Notes";
import { exactly } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { type CaseView, type OnDesk, path } from "./useCase";
import "./checklist.css";
import "./more.css";
import "./rule.css";
import "../filing/read-over.css";
import "../shared/messages.css";

export function Registers({ move, view }: { move: OnDesk["move"]; view: CaseView }) {
  const session = useSession();
  const role = session.data?.person?.role;
  const may = view.assessment.moves.some((m) => m.role === role && m.move === "ask a register" && m.allowed);
  // what an applicant's own profile says is no register: nobody has to look where it differs
  const altered = view.assessment.altered.filter((x) => x.source !== "profile");
  const silent = view.versions.at(-1)?.dossier.by_hand ?? [];
  return (
    <div className="desk-sheet" tabIndex={0} role="group" aria-label={say("Registers")}>
      {view.registers.map((r) => (
        <section key={r.name} className="filed-part">
          <h2>{r.title}</h2>
          {silent.includes(r.name) && (
            <p className="ochre">
              {say("It did not answer while this was filled in: the answers were typed by hand. Please look.")}
            </p>
          )}
          {r.at ? (
            <p className="second">
              {say("Asked about")} <b className="mono">{r.key}</b>, {exactly(r.at)}.{" "}
              {r.trouble
                ? say("No answer: {{trouble}}.", { trouble: r.trouble })
                : r.found
                  ? ""
                  : say("It has no such entry.")}
            </p>
          ) : (
            <p className="second">{say("It was not asked yet; it is asked when checking begins.")}</p>
          )}
          <dl>
            {r.cells.map((c) => (
              <div key={c.title}>
                <dt>
                  {c.title} {c.inner && <small>{say("the office's alone")}</small>}
                </dt>
                <dd>{c.value || "nothing"}</dd>
              </div>
            ))}
          </dl>
          {may && (
            <button
              type="button"
              className="jc-button plain small"
              onClick={() =>
                move((seen) =>
                  ask(
                    api.POST("/api/cases/{reference}/registers", {
                      params: path(view.reference),
                      headers: seen,
                      body: { name: r.name },
                    }),
                  ),
                )
              }
            >
              {say("Ask it again")}
            </button>
          )}
        </section>
      ))}
      {altered.length > 0 && (
        <section className="filed-part">
          <h2>{say("Altered after it was filled in from a register")}</h2>
          <dl>
            {altered.map((x) => (
              <div key={x.place}>
                <dt>{x.label}</dt>
                <dd className="ochre">
                  <s>{x.was}</s> {x.now}
                </dd>
              </div>
            ))}
          </dl>
        </section>
      )}
    </div>
  );
}

export function Talk({ view }: { view: CaseView }) {
  const { reference } = view;
  const session = useSession().data;
  const answers = session?.may?.moves === "officer" || session?.may?.moves === "reviewer";
  const unread = view.messages.filter((m) => !m.office && !m.read_at).length;
  const queries = useQueryClient();
  // open before somebody who may answer, the messages are read
  useEffect(() => {
    if (!answers || unread === 0) return;
    ask(api.POST("/api/cases/{reference}/talk", { params: path(reference) }))
      .then(() => queries.invalidateQueries({ queryKey: ["tray"] }))
      .catch(() => undefined);
  }, [answers, unread, reference, queries]);
  const [text, setText] = useState("");
  const [caller, setCaller] = useState("");
  const change = useChangeCase(view.reference);
  const keep = useMutation({
    mutationFn: () =>
      change((seen) =>
        ask(
          api.POST("/api/cases/{reference}/notes", {
            params: path(view.reference),
            headers: seen,
            body: { text, caller },
          }),
        ),
      ),
    onSuccess: () => {
      setText("");
      setCaller("");
    },
  });
  const role = session?.person?.role;
  const may = view.assessment.moves.some((m) => m.role === role && m.move === "note" && m.allowed);
  return (
    <div className="desk-sheet" tabIndex={0} role="group" aria-label={say("Messages and notes")}>
      <Messages view={view} office />
      <section className="messages" aria-label={say("Internal notes")}>
        <h2>{say("Internal notes")}</h2>
        <p className="second">{say("The applicant never sees these.")}</p>
        <ol>
          {view.notes.map((m) => (
            <li key={m.no} className="own">
              <p className="messages-who">
                <b>{m.who}</b> <small>{exactly(m.at)}</small>
              </p>
              <p className="messages-text">{m.text}</p>
            </li>
          ))}
        </ol>
        {may && (
          <form
            className="desk-waive"
            onSubmit={(e) => {
              e.preventDefault();
              keep.mutate();
            }}
          >
            <label htmlFor="note">{say("A note for the office")}</label>
            <textarea id="note" rows={2} value={text} onChange={(e) => setText(e.target.value)} />
            <label htmlFor="note-caller">{say("Who called, if it was by telephone")}</label>
            <input
              id="note-caller"
              value={caller}
              maxLength={120}
              placeholder={say("name and number")}
              onChange={(e) => setCaller(e.target.value)}
            />
            <ProblemNote error={keep.error} />
            <button type="submit" className="jc-button small" disabled={!text.trim() || keep.isPending}>
              {say("Keep the note")}
            </button>
          </form>
        )}
      </section>
    </div>
  );
}

export function History({ view }: { view: CaseView }) {
  const session = useSession();
  return (
    <div className="desk-sheet" tabIndex={0} role="group" aria-label={say("What has happened")}>
      <ol className="desk-history">
        {[...view.story].reverse().map((m) => (
          <li key={m.no} className={m.inner ? "inner" : ""}>
            <time dateTime={m.at}>{exactly(m.at)}</time>
            <span>
              {m.text}{" "}
              {m.paper && (
                <a href={`/api/cases/${view.reference}/papers/${m.no}`} target="_blank" rel="noreferrer">
                  {m.paper}
                </a>
              )}
            </span>
          </li>
        ))}
      </ol>
      {(session.data?.may?.decides_fees || session.data?.may?.moves === "") && <WhoLooked reference={view.reference} />}
    </div>
  );
}

/** For leads and auditors: who looked at the case, asked for when it is wanted. */
function WhoLooked({ reference }: { reference: string }) {
  const [wanted, setWanted] = useState(false);
  const told = useQuery({
    queryKey: ["looks", reference],
    queryFn: () => ask(api.GET("/api/cases/{reference}/looks", { params: { path: { reference } } })),
    enabled: wanted,
    staleTime: 0,
  });
  if (!wanted)
    return (
      <button type="button" className="jc-link" onClick={() => setWanted(true)}>
        {say("Who looked at this case?")}
      </button>
    );
  return (
    <section aria-label={say("Who looked at this case")}>
      <h2>{say("Who looked at this case")}</h2>
      <ProblemNote error={told.error} />
      <ol className="desk-history">
        {told.data?.map((n) => (
          <li key={`${n.at} ${n.who} ${n.what} ${n.detail}`}>
            <time dateTime={n.at}>{exactly(n.at)}</time>
            <span>
              {n.who}: {n.what} {n.detail && <small>{n.detail}</small>}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
