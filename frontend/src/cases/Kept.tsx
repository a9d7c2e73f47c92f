// A case that came from elsewhere, as it came: to look at, nothing to do.
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, ask } from "../api/client";
import { Stamp } from "../shared/Marks";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { exactly, size } from "../shared/say";
import { say } from "../shared/text";
import "../filing/read-over.css";
import "../desk/more.css";

export function Kept() {
  const { reference = "" } = useParams();
  const looked = useQuery({
    queryKey: ["kept", reference],
    queryFn: () => ask(api.GET("/api/kept/{reference}", { params: { path: { reference } } })),
  });
  const view = looked.data;
  return (
    <main className="jc-page">
      <ProblemNote error={looked.error} />
      {looked.isPending && <Skeleton lines={8} />}
      {view && (
        <>
          <p className="mono">{view.reference}</p>
          <h1>{view.title}</h1>
          <Stamp state={view.state} />
          <p className="second">
            {say("It came from elsewhere and is kept as it came. Filed {{filed}}, last changed {{changed}}, {{who}}.", {
              filed: exactly(view.filed_at),
              changed: exactly(view.changed_at),
              who: view.applicant,
            })}
          </p>
          {view.answers.length > 0 && (
            <section className="filed-part">
              <h2>{say("What was answered")}</h2>
              <dl>
                {view.answers.map((a) => (
                  <div key={`${a.label} ${a.value}`}>
                    <dt>{a.label}</dt>
                    <dd>{a.value}</dd>
                  </div>
                ))}
              </dl>
            </section>
          )}
          {view.files.length > 0 && (
            <section className="filed-part">
              <h2>{say("Files")}</h2>
              {view.files.map((f) => (
                <p key={f.sha256}>
                  <a href={`/api/kept/${reference}/files/${f.sha256}`} target="_blank" rel="noreferrer">
                    {f.name}
                  </a>{" "}
                  <span className="second">{size(f.size)}</span>
                </p>
              ))}
            </section>
          )}
          {view.steps.length > 0 && (
            <section className="filed-part">
              <h2>{say("What happened")}</h2>
              <ol className="desk-history">
                {[...view.steps].reverse().map((s) => (
                  <li key={`${s.at} ${s.text}`}>
                    <time dateTime={s.at}>{exactly(s.at)}</time>
                    <span>
                      {s.who && <b>{s.who}: </b>}
                      {s.text}
                    </span>
                  </li>
                ))}
              </ol>
            </section>
          )}
        </>
      )}
    </main>
  );
}
