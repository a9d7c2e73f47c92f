// How an edition is seen that is being written: the form as an applicant fills it in, over an example or one's own answers, what it costs, and
// what the officer looks at.
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { plain } from "../api/views";
import type { Answers, FormView } from "../filing/draft";
import { Questions } from "../filing/Questions";
import { Tab } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import { Faulty } from "./Faulty";
import "./seen.css";

type Sent = Schemas["TryOut"]["answers"];

export function Seen({ written, faulty }: { written: Schemas["WrittenEdition"]; faulty: boolean }) {
  const { examples } = written.checked;
  const [chosen, setChosen] = useState("");
  const example = examples.some((e) => e.id === chosen) ? chosen : (examples[0]?.id ?? "");
  const [own, setOwn] = useState<Answers | null>(null);
  const [told] = useDebouncedValue(own, 300);
  const tried = useQuery({
    queryKey: ["rules", written.id, "trial", example, written.revision, told],
    queryFn: () =>
      ask(
        api.POST("/api/rules/editions/{edition}/trial", {
          params: { path: { edition: written.id } },
          body: { example, answers: told as Sent },
        }),
      ),
    enabled: !faulty,
    select: (tried) => ({ ...tried, form: plain(tried.form) }),
    placeholderData: (before) => before,
  });
  if (faulty && !tried.data) return <Faulty />;
  const { data } = tried;
  return (
    <div className="rules-seen">
      {faulty && <p className="second">{say("As it was before the fault:")}</p>}
      {example && (
        <label className="rules-choose" hidden={faulty}>
          {say("Example")}
          <select
            className="jc-field"
            value={example}
            onChange={(e) => {
              setChosen(e.target.value);
              setOwn(null);
            }}
          >
            {examples.map((e) => (
              <option key={e.id}>{e.id}</option>
            ))}
          </select>
        </label>
      )}
      <p className="second">
        {own
          ? say("With your own answers; nothing is kept.")
          : say("Fill the form in as an applicant would; nothing is kept.")}{" "}
        {own && (
          <button type="button" className="jc-link" onClick={() => setOwn(null)}>
            {example ? say("Back to the example") : say("Begin again")}
          </button>
        )}
      </p>
      <ProblemNote error={tried.error} />
      {tried.isPending && <Skeleton lines={6} />}
      {data && (
        <>
          <Costs fees={data.fees} />
          <h3>{say("What the applicant answers")}</h3>
          <FillIn key={example} view={data} answers={own ?? data.answers} onAnswers={setOwn} />
          <h3>{say("What the officer looks at")}</h3>
          <ul className="rules-looked">
            {data.requirements.map((r) => (
              <li key={r.title}>
                <Tab standing={r.proposed} given={false} />
                <span>
                  {r.title} <small>{r.because}</small>
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

/** Its parts, one open at a time, each with how many of its questions are left. */
function FillIn(of: { view: FormView; answers: Answers; onAnswers: (answers: Answers) => void }) {
  const { view, answers } = of;
  const [open, setOpen] = useState("");
  const asked = view.assessment.parts.filter((p) => p.asked || p.waits);
  const part = asked.find((p) => p.id === open) ?? asked[0];
  const shown = view.form.parts.find((p) => p.id === part?.id);
  if (!part || !shown) return null;
  return (
    <>
      <label className="rules-choose">
        {say("Part")}
        <select className="jc-field" aria-label={say("Part")} value={part.id} onChange={(e) => setOpen(e.target.value)}>
          {asked.map((p) => (
            <option key={p.id} value={p.id}>
              {p.left ? say("{{part}} ({{left}} left)", { part: p.title, left: p.left }) : p.title}
            </option>
          ))}
        </select>
      </label>
      <div className="rules-form">
        <Questions
          key={part.id}
          view={view}
          part={shown}
          answers={answers}
          onPart={(value) => of.onAnswers({ ...answers, [part.id]: value })}
        />
      </div>
    </>
  );
}

/** What it costs, with what it cost under the edition before where that differs. */
function Costs({ fees }: { fees: Schemas["Priced"][] }) {
  return (
    <table className="rules-fees">
      <caption>{say("What it costs")}</caption>
      <tbody>
        {fees.map((line) => (
          <tr key={line.title}>
            <th scope="row">{line.title}</th>
            <td>
              {line.was && line.was !== line.amount && <s>{line.was}</s>} <b>{line.amount}</b>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
