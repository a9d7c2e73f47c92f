// Promise and sign: the exact text, a typed name, the time.
import { TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { exactly } from "../shared/say";
import { useSession } from "../shared/session";
import type { Work } from "./draft";

export function SignPart({ work, id }: { work: Work; id: string }) {
  const session = useSession();
  const [name, setName] = useState("");
  const [trouble, setTrouble] = useState<unknown>(null);
  const view = work.view;
  if (!view) return null;
  const signed = view.dossier.signature;
  async function sign() {
    try {
      await work.change(() =>
        ask(api.POST("/api/drafts/{draft}/signature", { params: { path: { draft: id } }, body: { name } })),
      );
      setTrouble(null);
    } catch (error) {
      setTrouble(error);
    }
  }
  const unsign = () =>
    work.change(() => ask(api.DELETE("/api/drafts/{draft}/signature", { params: { path: { draft: id } } })));
  return (
    <section id="signature">
      <h1>Promise and sign</h1>
      <blockquote className="filing-promise">
        {view.form.signature.text} <cite>art. {view.form.signature.article}</cite>
      </blockquote>
      <ProblemNote error={trouble} />
      {signed ? (
        <div className="filing-signed">
          <p className="filing-name">{signed.name}</p>
          <p>
            Signed {exactly(signed.at)}.{" "}
            <button type="button" className="jc-link" onClick={unsign}>
              Take the signature back
            </button>
          </p>
        </div>
      ) : (
        <form
          className="filing-sign"
          onSubmit={(e) => {
            e.preventDefault();
            sign();
          }}
        >
          <TextInput
            label="Your full name, as you sign"
            value={name}
            onChange={(e) => setName(e.target.value)}
            placeholder={session.data?.person?.name}
            autoComplete="name"
          />
          <button type="submit" className="jc-button">
            Sign
          </button>
        </form>
      )}
    </section>
  );
}
