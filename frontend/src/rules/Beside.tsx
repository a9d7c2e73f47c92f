// Beside the text: an example as applicant and officer would see it, the examples, what differs in words, and past cases.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import { Faulty } from "./Faulty";
import { PastCases } from "./PastCases";
import { Seen } from "./Seen";
import { Translations } from "./Translations";

type Written = Schemas["WrittenEdition"];
const VIEWS = ["seen", "examples", "differs", "translations", "past"] as const;
const CALLED: Record<(typeof VIEWS)[number], string> = {
  seen: say("As it is seen"),
  examples: say("Examples"),
  differs: say("In words"),
  translations: say("Languages"),
  past: say("Past cases"),
};

export function Beside(of: {
  written: Written;
  faulty: boolean;
  onGoTo: (line: number) => void;
  text: string;
  onText: (text: string) => void;
}) {
  const [view, setView] = useState<(typeof VIEWS)[number]>("seen");
  return (
    <aside className="rules-beside" aria-label={say("Beside the text")}>
      <p className="desk-switch" role="group" aria-label={say("What is shown beside the text")}>
        {VIEWS.map((one) => (
          <button key={one} type="button" aria-pressed={view === one} onClick={() => setView(one)}>
            {CALLED[one]}
          </button>
        ))}
      </p>
      {view === "seen" && <Seen {...of} />}
      {view === "examples" && <Examples {...of} />}
      {view === "differs" && <Differs {...of} />}
      {view === "translations" && <Translations {...of} />}
      {view === "past" && <PastCases id={of.written.id} faulty={of.faulty} />}
    </aside>
  );
}

/** Every example, green where it comes out and red with what did not. */
function Examples({ written, faulty, onGoTo }: { written: Written; faulty: boolean; onGoTo: (line: number) => void }) {
  if (faulty) return <Faulty />;
  return (
    <ul className="rules-examples">
      {written.checked.examples.map((example) => (
        <li key={example.id} className={example.misses.length ? "fault" : "good"}>
          <button type="button" className="jc-link" onClick={() => onGoTo(example.line)}>
            {example.id}
          </button>{" "}
          <b>{example.misses.length ? say("does not come out") : say("comes out")}</b>
          {example.misses.map((miss) => (
            <p key={miss}>{miss}</p>
          ))}
        </li>
      ))}
    </ul>
  );
}

/** What differs from the edition that it was begun from. */
function Differs({ written, faulty }: { written: Written; faulty: boolean }) {
  const found = useQuery({
    queryKey: ["rules", written.id, "differences", written.revision],
    queryFn: () =>
      ask(api.GET("/api/rules/editions/{edition}/differences", { params: { path: { edition: written.id } } })),
    enabled: !faulty,
  });
  if (faulty) return <Faulty />;
  if (found.isPending) return <Skeleton lines={4} />;
  return (
    <>
      <ProblemNote error={found.error} />
      {found.data?.length === 0 && <p className="second">{say("Nothing differs.")}</p>}
      <ul className="rules-differs">
        {found.data?.map((change) => (
          <li key={change}>{change}</li>
        ))}
      </ul>
    </>
  );
}
