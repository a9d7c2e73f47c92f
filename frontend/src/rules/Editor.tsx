// An edition being written: the text with what the check says at its line, its sections, an example beside it, what differs, past cases.
import { useDebouncedCallback } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask, insteadOf, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { since } from "../shared/say";
import { say, things } from "../shared/text";
import { Beside } from "./Beside";
import type { TextField } from "./TextField";
import "./rules.css";

const Typing = lazy(() => import("./TextField").then((m) => ({ default: m.TextField })));
type Written = Schemas["WrittenEdition"];

export function Editor() {
  const { edition = "" } = useParams();
  const path = { path: { edition } };
  const key = ["rules", edition];
  const looked = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/rules/editions/{edition}", { params: path })),
    staleTime: Number.POSITIVE_INFINITY, // what is typed here is not taken away by a newer look
  });
  const instead = insteadOf(looked);
  if (instead)
    return (
      <main className="jc-page">
        <ProblemNote error={instead} />
        <Link to="/rules">{say("Back to the rulebooks")}</Link>
      </main>
    );
  return looked.data ? <Open key={edition} first={looked.data} /> : <Skeleton lines={9} />;
}

function Open({ first }: { first: Written }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [written, setWritten] = useState(first);
  const [typed, setTyped] = useState(first.text);
  const revision = useRef(first.revision);
  const field = useRef<TextField>(null);
  const path = { path: { edition: first.id } };
  const took = useCallback((fresh: Written) => {
    revision.current = fresh.revision;
    setWritten(fresh);
  }, []);
  const keep = useMutation({
    mutationFn: (text: string) =>
      ask(
        api.PUT("/api/rules/editions/{edition}", {
          params: { ...path, header: { "if-match": `"${revision.current}"` } },
          body: { text },
        }),
      ),
    onSuccess: took,
    scope: { id: first.id }, // one after the other
  });
  const keepSoon = useDebouncedCallback((text: string) => keep.mutate(text), 500);
  const step = useMutation({
    mutationFn: (what: "asking" | "taking-back") =>
      what === "asking"
        ? ask(api.POST("/api/rules/editions/{edition}/asking", { params: path }))
        : ask(api.POST("/api/rules/editions/{edition}/taking-back", { params: path })),
    onSuccess: took,
  });
  const leave = useMutation({
    mutationFn: async (confirms: boolean) => {
      if (confirms) await ask(api.POST("/api/rules/editions/{edition}/confirmation", { params: path }));
      else await ask(api.DELETE("/api/rules/editions/{edition}", { params: path }));
    },
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["rules"] });
      go("/rules");
    },
  });
  const { checked } = written;
  const faults = checked.messages.filter((m) => m.fault);
  const missed = checked.examples.filter((e) => e.misses.length > 0);
  const kept = typed === written.text && !keep.isPending;
  return (
    <main className="rules-editor">
      <header>
        <p>
          <Link to="/rules">{say("Rulebooks")}</Link>
        </p>
        <h1>
          <span className="mono">{written.kind}</span> {checked.title || say("Not whole yet")}
        </h1>
        <p className="rules-says" role="status">
          <span className={faults.length ? "madder" : "moss"}>
            {faults.length ? things(faults.length, "fault") : say("No faults")}
          </span>
          {" · "}
          {say("{{count}} worth a look", { count: checked.messages.length - faults.length })}
          {" · "}
          <span className={missed.length ? "madder" : "moss"}>
            {say("{{good}} of {{all}} examples", {
              good: checked.examples.length - missed.length,
              all: checked.examples.length,
            })}
          </span>
        </p>
      </header>
      <nav aria-label={say("Sections")}>
        <ul>
          {checked.sections.map((section) => (
            <li key={section.key}>
              <button type="button" className="jc-link" onClick={() => field.current?.goTo(section.line)}>
                {section.title}
              </button>
            </li>
          ))}
        </ul>
      </nav>
      <section className="rules-text" aria-label={say("Text of the edition")}>
        <Suspense fallback={<Skeleton lines={12} />}>
          <Typing
            ref={field}
            text={first.text}
            messages={checked.messages}
            readOnly={!written.writes}
            onChange={(text) => {
              setTyped(text);
              keepSoon(text);
            }}
          />
        </Suspense>
        <Messages written={written} onGoTo={(line) => field.current?.goTo(line)} />
      </section>
      <Beside
        written={written}
        faulty={faults.length > 0}
        onGoTo={(line) => field.current?.goTo(line)}
        text={typed}
        onText={(text) => field.current?.put(text)}
      />
      <footer>
        <p>
          {kept ? say("Kept {{at}}", { at: since(written.kept_at) }) : say("being kept")}
          {written.asked_at && ` · ${say("laid before a lead by {{who}}", { who: written.asked_by })}`}
          {!written.asked_at && checked.why_not.length > 0 && ` · ${checked.why_not.join(" ")}`}
        </p>
        <ProblemNote error={keep.error ?? step.error ?? leave.error} />
        <span>
          {written.writes && (
            <>
              <AskFirst
                className="jc-link"
                question={say("Throw this edition away?")}
                yes={say("Throw it away")}
                onYes={() => leave.mutate(false)}
              >
                {say("throw it away")}
              </AskFirst>
              <button
                type="button"
                className="jc-button"
                disabled={checked.why_not.length > 0 || !kept || step.isPending}
                onClick={() => step.mutate("asking")}
              >
                {say("Ask for confirmation")}
              </button>
            </>
          )}
          {written.asked_at && (
            <button
              type="button"
              className="jc-button plain"
              disabled={step.isPending}
              onClick={() => step.mutate("taking-back")}
            >
              {written.confirms ? say("Send it back") : say("Take it back and write on")}
            </button>
          )}
          {written.confirms && (
            <AskFirst
              className="jc-button"
              question={say("Publish it? Filings from {{day}} on are decided by it.", { day: checked.in_force ?? "" })}
              yes={say("Confirm and publish")}
              onYes={() => leave.mutate(true)}
            >
              {say("Confirm and publish")}
            </AskFirst>
          )}
        </span>
      </footer>
    </main>
  );
}

/** What the check says, each with the line that it stands at. */
function Messages({ written, onGoTo }: { written: Written; onGoTo: (line: number) => void }) {
  if (written.checked.messages.length === 0) return null;
  return (
    <ul className="rules-messages" aria-label={say("What the check says")}>
      {written.checked.messages.map((message) => (
        <li key={`${message.line} ${message.text}`} className={message.fault ? "fault" : ""}>
          <button type="button" className="jc-link" onClick={() => onGoTo(message.line)}>
            {say("line {{line}}", { line: message.line })}
          </button>{" "}
          {message.text}
        </li>
      ))}
    </ul>
  );
}
