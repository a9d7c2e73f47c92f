// Promise and sign: the exact text, a typed name, the time.
import { Checkbox, TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { api, ask } from "../api/client";
import type { DraftView, Form } from "../api/views";
import { Consent } from "../counter/Consent";
import { ProblemNote } from "../shared/Notes";
import { exactly } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { isLocked, type Work } from "./draft";
import { alsoSaid } from "./language";
import { SignByHand } from "./SignByHand";
import "./questions.css";
import "./said.css";
import "./sign.css";

/** What is to be declared beside the signature, as far as it is asked now. */
export function declarationsOf(view: Pick<DraftView, "form" | "assessment">) {
  const open = new Set(view.assessment.requirements.filter((r) => r.open).map((r) => r.id));
  return view.form.declarations.filter((d) => open.has(`declarations.${d.declare}`));
}

/** What is promised by signing, in the language of the screen, and then the office's own text, which is the one that is signed. */
export function Promised({ form }: { form: Form }) {
  const { text, article } = form.signature;
  const told = alsoSaid(form, text);
  return (
    <>
      <blockquote className="filing-promise">
        {told ?? text} {article && <cite>{say("art. {{article}}", { article })}</cite>}
      </blockquote>
      {told && <p className="second">{say("What you sign is the text of the office: “{{text}}”", { text })}</p>}
    </>
  );
}

export function SignPart({ work, id }: { work: Work; id: string }) {
  const session = useSession();
  const [name, setName] = useState("");
  const [trouble, setTrouble] = useState<unknown>(null);
  const [asking, setAsking] = useState(false);
  const done = useRef<HTMLDivElement>(null);
  // what was ticked a moment ago and is on its way to the office
  const [ticking, setTicking] = useState<Record<string, boolean>>({});
  const view = work.view;
  if (!view) return null;
  const off = isLocked(view, "signature");
  const signed = view.dossier.signature;
  const line = view.assessment.requirements.find((r) => r.kind === "signature");
  // what was signed was changed since: it has to be signed anew
  const stale = signed && line?.proposed === "wanting" ? line.because : "";
  const own = session.data?.person?.name ?? "";
  const same = name.trim().localeCompare(own.trim(), undefined, { sensitivity: "base" }) === 0;
  const another = own !== "" && name.trim() !== "" && !same;
  async function sign() {
    try {
      await work.change((seen) =>
        ask(
          api.POST("/api/drafts/{draft}/signature", { params: { path: { draft: id } }, headers: seen, body: { name } }),
        ),
      );
      setTrouble(null);
      setName("");
      setAsking(false);
      window.setTimeout(() => done.current?.focus());
    } catch (error) {
      setTrouble(error);
    }
  }
  const said = declarationsOf(view);
  const tick = (declaration: string, ticked: boolean) => {
    setTicking((t) => ({ ...t, [declaration]: ticked }));
    work
      .change((seen) =>
        ask(
          api.PUT("/api/drafts/{draft}/declarations/{declaration}", {
            params: { path: { draft: id, declaration } },
            headers: seen,
            body: { ticked },
          }),
        ),
      )
      .then(() => setTrouble(null), setTrouble)
      .finally(() => setTicking(({ [declaration]: _, ...rest }) => rest));
  };
  const unsign = () =>
    work.change((seen) =>
      ask(api.DELETE("/api/drafts/{draft}/signature", { params: { path: { draft: id } }, headers: seen })),
    );
  return (
    <section>
      <h1 tabIndex={-1}>{say("Promise and sign")}</h1>
      {said.length > 0 && (
        <ul className="filing-declared">
          {said.map((d) => {
            const ticked = view.dossier.declared.find((t) => t.id === d.declare);
            return (
              <li key={d.declare} id={`declarations.${d.declare}`}>
                <Checkbox
                  checked={ticking[d.declare] ?? !!ticked}
                  disabled={isLocked(view, `declarations.${d.declare}`)}
                  onChange={(e) => tick(d.declare, e.currentTarget.checked)}
                  label={
                    <>
                      <b>{d.title}</b>
                      {d.optional && say(" (you may leave this out)")}
                    </>
                  }
                  description={
                    <>
                      {d.text} <cite>{say("art. {{article}}", { article: d.article })}</cite>
                      {ticked && (
                        <span className="filing-ticked">{say("Ticked {{at}}.", { at: exactly(ticked.at) })}</span>
                      )}
                    </>
                  }
                />
              </li>
            );
          })}
        </ul>
      )}
      <div id="signature">
        <Promised form={view.form} />
        <ProblemNote error={trouble} />
        {stale && (
          <p className="filing-said" role="status">
            {stale}
          </p>
        )}
        {signed && !stale ? (
          <div className="filing-signed" ref={done} tabIndex={-1}>
            <p className="filing-name">{signed.name}</p>
            <p>
              {signed.sheet ? (
                <>
                  {say("Signed by hand; the sheet came {{at}}.", { at: exactly(signed.at) })}{" "}
                  <a href={`/api/drafts/${id}/files/signature`} target="_blank" rel="noreferrer">
                    {signed.sheet.name}
                  </a>
                </>
              ) : (
                say("Signed {{at}}.", { at: exactly(signed.at) })
              )}{" "}
              {signed.witness &&
                (signed.on_paper
                  ? say("The signature stands on the paper that came; noted by {{name}}.", { name: signed.witness })
                  : say("The person said so before {{name}}, who is the witness.", { name: signed.witness }))}{" "}
              {!off && (
                <button type="button" className="jc-link" onClick={unsign}>
                  {say("Take the signature back")}
                </button>
              )}
            </p>
          </div>
        ) : view.counter ? (
          <Consent work={work} id={id} />
        ) : off ? (
          <p className="second">{say("It is not signed yet.")}</p>
        ) : (
          <form
            className="filing-sign"
            onSubmit={(e) => {
              e.preventDefault();
              if (another && !asking) setAsking(true);
              else sign();
            }}
          >
            <TextInput
              label={say("Your full name, as you sign")}
              value={name}
              onChange={(e) => setName(e.target.value)}
              placeholder={session.data?.person?.name}
              autoComplete="name"
            />
            {asking && another && (
              <p className="filing-said" role="alert">
                {say("This is the account of {{own}}. Do you sign for yourself, as {{name}}?", {
                  own,
                  name: name.trim(),
                })}
              </p>
            )}
            <button type="submit" className="jc-button">
              {asking && another
                ? say("Yes, sign as {{name}}", { name: name.trim() })
                : stale
                  ? say("Sign again")
                  : say("Sign")}
            </button>
          </form>
        )}
        {(!signed || stale) && !off && <SignByHand work={work} id={id} />}
      </div>
    </section>
  );
}
