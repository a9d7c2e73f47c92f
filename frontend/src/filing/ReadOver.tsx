// Reading it over: everything on one page as the officer will see it, then filing.
import { Checkbox, Textarea } from "@mantine/core";
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { seenAt } from "../api/views";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { PrintButton, PrintHead } from "../shared/PrintHead";
import { Slip } from "../shared/Slip";
import { exactly } from "../shared/say";
import { say, things } from "../shared/text";
import { BeingRead } from "./BeingRead";
import { Bring } from "./Bring";
import { Dockets } from "./ByPost";
import { CodeByText } from "./CodeByText";
import { usePile } from "./DropAll";
import { placeLink, useDraft } from "./draft";
import { AnswerList, ChangeLink, FileList } from "./Filed";
import { NotArrived, useWaitsForFiles } from "./OnTheirWay";
import { declarationsOf, Promised } from "./SignPart";
import { WayInSays } from "./WayInSays";
import "./filing.css";
import "./read-over.css";
import "./sign.css";

/** Only whoever prepares a filing files it. */
function FileIt({ own, children }: { own: boolean; children: ReactNode }) {
  return own ? <div className="read-over-file jc-no-print">{children}</div> : null;
}

export function ReadOver() {
  const { draft: id = "" } = useParams();
  const work = useDraft(id);
  const [gaps, setGaps] = useState(false);
  const [code, setCode] = useState("");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const view = work.view;
  const onTheWay = useWaitsForFiles(id);
  const unplaced = usePile(id).data?.pieces.length ?? 0;
  useHeading(view !== undefined);
  useDocumentTitle([say("Read it over"), view?.form.title].filter(Boolean).join(" - "));
  const file = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/drafts/{draft}/filing", {
          params: { path: { draft: id } },
          headers: seenAt(view?.revision ?? 0),
          body: { take_gaps: gaps, code },
        }),
      ),
    onSuccess: ({ reference }) => {
      queries.removeQueries({ queryKey: ["drafts"] }); // what is filed is no draft, not for a moment
      queries.invalidateQueries({ queryKey: ["my-cases"] });
      navigate(view?.counter ? `/desk/${reference}` : `/cases/${reference}/pay`, { replace: true });
    },
  });
  if (work.instead)
    return (
      <main className="jc-page">
        <ProblemNote error={work.instead} />
      </main>
    );
  if (!view) return <Skeleton lines={9} />;
  const base = `/filing/${id}`;
  const link = placeLink(view, base);
  const left = view.assessment.left;
  const mayFile = view.own || view.rights.includes("file");
  const filing = view.assessment.moves.find((m) => m.move === "file");
  const stopped = filing?.allowed === false;
  const needed = (filing?.why_not ?? []).filter((w) => w.place); // without these nothing can be filed, with or without a tick
  // what a case of its own has to come to first does not stop the filing; it is told with what a person looks at
  const looks = view.assessment.requirements.filter(
    (r) => r.proposed === "in doubt" || (r.kind === "prerequisite" && r.proposed === "wanting"),
  );
  return (
    <div className="read-over">
      <main>
        <PrintHead title={`${view.form.title}, ${view.assessment.title}`} reference={view.own_reference} />
        <p className="jc-no-print">
          <Link to={base}>{say("Back to the form")}</Link> <PrintButton>{say("Print")}</PrintButton>
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
                // a file with several faults: its name is the link, and each fault stands for itself
                const faults = view.assessment.requirements
                  .filter((r) => r.kind === "document" && r.title === gap.title && r.places[0]?.ref === gap.place?.ref)
                  .flatMap((r) => r.findings.filter((f) => f.weight === "fault"));
                return (
                  <li key={gap.text}>
                    {to ? <Link to={to[0]}>{faults.length > 1 ? gap.title : gap.text}</Link> : gap.text}
                    {marked && <b> {say("needed to file")}</b>}
                    {faults.length > 1 && (
                      <ul>
                        {faults.map((f) => (
                          <li key={f.text}>{f.text}</li>
                        ))}
                      </ul>
                    )}
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
                const named = r.because.startsWith(r.plain_title); // the sentence says already what it is about
                const sentence = r.item_label ? `${r.item_label}: ${r.because}` : r.because;
                return (
                  <li key={r.id}>
                    {to ? <Link to={to[0]}>{named ? sentence : r.title}</Link> : <b>{r.title}</b>}{" "}
                    {(!named || !to) && r.because}
                  </li>
                );
              })}
            </ul>
          </section>
        )}
        <AnswerList form={view.form} assessment={view.assessment} answers={view.dossier.answers} base={base} />
        <h2>
          {say("Documents")} <ChangeLink to={`${base}/documents`} what={say("Documents")} />
        </h2>
        <FileList files={view.files} url={(f) => `/api/drafts/${id}/files/${f.attachment.id}`} />
        <Dockets dockets={view.dossier.dockets ?? []} base={`/api/drafts/${id}`} />
        <h2>
          {say("Promise and signature")} <ChangeLink to={`${base}/sign`} what={say("Promise and signature")} />
        </h2>
        <ul className="read-over-declared">
          {declarationsOf(view).map((d) => (
            <li key={d.declare}>
              <b>{d.title}:</b> {d.text}{" "}
              <span className="second">
                {view.dossier.declared.some((t) => t.id === d.declare) ? say("Ticked.") : say("Not ticked.")}
              </span>
            </li>
          ))}
        </ul>
        <Promised form={view.form} />
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
        {!mayFile && <p>{say("{{owner}} files it; you can only look at it here.", { owner: view.owner })}</p>}
        {mayFile && !view.own && (
          <p>{say("You file it for {{owner}}, whose case it will be.", { owner: view.owner })}</p>
        )}
        <FileIt own={mayFile}>
          <p>
            <b>{say("Once the office has begun checking it cannot be changed.")}</b>{" "}
            {view.counter
              ? say("The filing day is the day on which it reached the office; it decides which rules and prices hold.")
              : say(
                  "Until then you can take it back. The filing day is today; it decides which rules and prices hold.",
                )}
          </p>
          {left.length > 0 && needed.length === 0 && view.form.incomplete_filing === "warn" && (
            <Checkbox
              checked={gaps}
              onChange={(e) => setGaps(e.target.checked)}
              label={say("I have read what is missing ({{left}}). File it like this.", { left: left.length })}
            />
          )}
          {view.own && (
            <Textarea
              label={say("A note for the officer, if you like")}
              value={work.typed.note ?? view.dossier.note ?? ""}
              onChange={(e) => work.type({ note: e.target.value })}
              maxLength={4000}
              autosize
              minRows={2}
              maxRows={8}
            />
          )}
          <NotArrived draft={id} />
          {unplaced > 0 && (
            <p className="filing-not-arrived" role="status">
              {say("{{papers}} of the pile are placed nowhere and are not filed.", {
                papers: things(unplaced, "paper"),
              })}{" "}
              <Link to={`/filing/${id}/pile`}>{say("Sort them")}</Link>
            </p>
          )}
          <BeingRead files={view.files} waits={file.isPending} />
          {view.form.confirm_by === "text" && <CodeByText code={code} onCode={setCode} />}
          <ProblemNote error={file.error} />
          <button
            type="button"
            className="jc-button wide"
            disabled={
              file.isPending ||
              (left.length > 0 && !gaps) ||
              work.state !== "kept" ||
              stopped ||
              onTheWay ||
              (!!view.form.confirm_by && code.trim().length < 6)
            }
            onClick={() => file.mutate()}
          >
            {say("File this application")}
          </button>
          {needed.length > 0 && <p className="madder">{say("Not yet: see what is missing.")}</p>}
        </FileIt>
        <h2>{say("What you bring")}</h2>
        <Bring view={view} base={base} />
      </aside>
    </div>
  );
}
