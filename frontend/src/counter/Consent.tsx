// How whoever applies consents to a filing that the office records: on the paper that came, or before a witness. The office never signs.
import { TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Work } from "../filing/draft";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import "./counter.css";

export function Consent({ work, id }: { work: Work; id: string }) {
  const [name, setName] = useState(work.view?.owner ?? "");
  const [paper, setPaper] = useState(true);
  const [trouble, setTrouble] = useState<unknown>(null);
  async function note() {
    try {
      await work.change((seen) =>
        ask(
          api.PUT("/api/counter/filings/{draft}/consent", {
            params: { path: { draft: id } },
            headers: seen,
            body: { name, on_paper: paper },
          }),
        ),
      );
      setTrouble(null);
    } catch (error) {
      setTrouble(error);
    }
  }
  return (
    <form
      className="filing-sign consent"
      onSubmit={(e) => {
        e.preventDefault();
        note();
      }}
    >
      <p>{say("The office never signs for anybody. Note how the applicant consents to what is promised above.")}</p>
      <fieldset>
        <legend className="jc-hidden">{say("How the applicant consents")}</legend>
        <label>
          <input type="radio" name="consent" checked={paper} onChange={() => setPaper(true)} />{" "}
          {say("It is signed on the paper that came; the paper is among the files.")}
        </label>
        <label>
          <input type="radio" name="consent" checked={!paper} onChange={() => setPaper(false)} />{" "}
          {say("The person is here and says so; I am the witness.")}
        </label>
      </fieldset>
      <TextInput
        label={say("Name of the applicant, as signed or said")}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <ProblemNote error={trouble} />
      <button type="submit" className="jc-button" disabled={name.trim().length < 2}>
        {say("Note the consent")}
      </button>
    </form>
  );
}
