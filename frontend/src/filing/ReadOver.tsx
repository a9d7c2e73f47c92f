// Reading it over: everything on one page as the officer will see it, then filing.
import { Checkbox } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { seenAt } from "../api/views";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { Slip } from "../shared/Slip";
import { exactly } from "../shared/say";
import { say, things } from "../shared/text";
import { isBeingRead, placeLink, useDraft } from "./draft";
import { AnswerList, FileList } from "./Filed";
import { Bring } from "./Filing";
import { declarationsOf } from "./SignPart";
import { WayInSays } from "./WayInSays";
import "./filing.css";
import "./read-over.css";
import "./sign.css";

/** How far the reading of the files is: filing waits for it, a minute at the most. */
export function BeingRead({ files, waits }: { files: { opens: string }[]; waits: boolean }) {
  const left = files.filter(isBeingRead).length;
  if (left === 0) return null;
  const read = say("{{read}} of {{files}} read", { read: files.length - left, files: things(files.length, "file") });
  return (
    <p role="status" className="second">
      {waits
        ? say("{{read}}. It is filed when the others are read, in a minute at the latest.", { read })
        : say("{{read}}. You can file now: the office waits for the others, a minute at the most.", { read })}
    </p>
  );
}

export function ReadOver() {
  const { draft: id = "" } = useParams();
  const work = useDraft(id);
  const [gaps, setGaps] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const view = work.view;
  const file = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/drafts/{draft}/filing", {
          params: { path: { draft: id } },
          headers: seenAt(view?.revision ?? 0),
          body: { take_gaps: gaps },
        }),
      ),
    onSuccess: ({ reference }) => {
      queries.invalidateQueries({ queryKey: ["drafts"] });
      queries.invalidateQueries({ queryKey: ["my-cases"] });
      navigate(`/cases/${reference}/pay`, { replace: true });
    },
  });
  if (work.draft.error)
    return (
      <main className="jc-page">
        <ProblemNote error={work.draft.error} />
      </main>
    );
  if (!view) return <Skeleton lines={9} />;
  const base = `/filing/${id}`;
  const link = placeLink(view, base);
  const left = view.assessment.left;
  const filing = view.assessment.moves.find((m) => m.move === "file");
  const stopped = filing?.allowed === false;
  const needed = (filing?.why_not ?? []).filter((w) => w.place); // without these nothing can be filed, with or without a tick
  const looks = view.assessment.requirements.filter((r) => r.proposed === "in doubt");
  return (
    <div className="read-over">
      <main>
        <p>
          <Link to={base}>{say("Back to the form")}</Link>
        </p>
        <h1>{say("Read it over")}</h1>
        <p className="second">
          {view.form.title === view.assessment.title
            ? say("This is what the officer will see: {{title}}.", { title: view.form.title })
            : say("This is what the officer will see: {{title}}, {{title2}}.", {
                title: view.form.title,
                title2: view.assessment.title,
              })}
        </p>
        <WayInSays work={work} id={id} />
        {left.length > 0 && (
          <section className="read-over-gaps">
            <h2>{say("{{left}} still missing", { left: things(left.length, "thing") })}</h2>
            {view.form.incomplete_filing === "warn" ? (
              <p>
                {needed.length > 0
                  ? say(
                      "It can be filed as soon as what is marked is there. The rest the office would ask for, which takes longer.",
                    )
                  : say("You can file it like this. The office will then ask for what is missing, which takes longer.")}
              </p>
            ) : (
              <p>{say("This kind of application can be filed only when nothing is missing.")}</p>
            )}
            <ul>
              {left.map((gap) => {
                const to = gap.place ? link(gap.place.ref) : null;
                const marked = view.form.incomplete_filing === "warn" && needed.some((w) => w.text === gap.text);
                return (
                  <li key={gap.text}>
                    {to ? <Link to={to[0]}>{gap.text}</Link> : gap.text}
                    {marked && <b> {say("needed to file")}</b>}
                  </li>
                );
              })}
            </ul>
          </section>
        )}
        {looks.length > 0 && (
          <section className="read-over-looks">
            <h2>{say("A person will look at this")}</h2>
            <p className="second">
              {say("It does not stop you. You may put it right now, or leave it to the officer.")}
            </p>
            <ul>
              {looks.map((r) => {
                const to = r.places[0] ? link(r.places[0].ref) : null;
                return (
                  <li key={r.id}>
                    {to ? <Link to={to[0]}>{r.title}</Link> : <b>{r.title}</b>} {r.because}
                  </li>
                );
              })}
            </ul>
          </section>
        )}
        <AnswerList form={view.form} assessment={view.assessment} answers={view.dossier.answers} />
        <h2>{say("Documents")}</h2>
        <FileList files={view.files} url={(f) => `/api/drafts/${id}/files/${f.attachment.id}`} />
        <h2>{say("Promise and signature")}</h2>
        <ul className="read-over-declared">
          {declarationsOf(view).map((d) => (
            <li key={d.declare}>
              <b>{d.title}:</b> {d.text}{" "}
              <span className="second">
                {view.dossier.declared.some((t) => t.id === d.declare) ? "Ticked." : say("Not ticked.")}
              </span>
            </li>
          ))}
        </ul>
        <blockquote className="filing-promise">{view.form.signature.text}</blockquote>
        <p>
          {view.dossier.signature
            ? say("Signed by {{name}}, {{at}}.", {
                name: view.dossier.signature.name,
                at: exactly(view.dossier.signature.at),
              })
            : say("Not signed yet.")}
        </p>
      </main>
      <aside className="filing-slip">
        <h2>{say("What it costs")}</h2>
        <Slip fees={view.assessment.fees} linkTo={link} debts={view.assessment.account.debts} />
        <h2>{say("What you bring")}</h2>
        <Bring view={view} base={base} />
        <div className="read-over-file">
          <p>
            <b>{say("Once the office has begun checking it cannot be changed.")}</b>{" "}
            {say("Until then you can take it back. The filing day is today; it decides which rules and prices hold.")}
          </p>
          {left.length > 0 && needed.length === 0 && view.form.incomplete_filing === "warn" && (
            <Checkbox
              checked={gaps}
              onChange={(e) => setGaps(e.target.checked)}
              label={say("I have read what is missing ({{left}}). File it like this.", { left: left.length })}
            />
          )}
          <BeingRead files={view.files} waits={file.isPending} />
          <ProblemNote error={file.error} />
          <button
            type="button"
            className="jc-button wide"
            disabled={file.isPending || (left.length > 0 && !gaps) || work.state !== "kept" || stopped}
            onClick={() => file.mutate()}
          >
            {say("File this application")}
          </button>
          {needed.length > 0 && <p className="madder">{say("Not yet: see what is missing.")}</p>}
        </div>
      </aside>
    </div>
  );
}
