// What may come later, a document, a person or an answer: added without being asked, each signed again.
import { TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import type { CaseView } from "../api/views";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import "./add-later.css";

export function AddLater({ view }: { view: CaseView }) {
  if (view.to_add.length === 0 && view.may_add.length === 0) return null;
  return (
    <section className="add-later">
      <h2>{say("What you may still add")}</h2>
      <p className="second">
        {say("Nothing stands still by it, and nobody has to ask for it. The office reads it when it has come.")}
      </p>
      {view.may_add.map((one) => (
        <MayAdd key={one.adds} one={one} reference={view.reference} />
      ))}
      {view.to_add.map((one) => (
        <OneToAdd key={one.slot} one={one} reference={view.reference} />
      ))}
    </section>
  );
}

/** A repeat or an answer that may come later: what it costs is told first, then it is filled in on the pages of the filing. */
function MayAdd({ one, reference }: { one: Schemas["MayAdd"]; reference: string }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const begin = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/cases/{reference}/additions", {
          params: { path: { reference }, query: { adds: one.adds } },
        }),
      ),
    onSuccess: ({ id, answers }) => (answers ? queries.invalidateQueries() : navigate(`/filing/${id}`)),
  });
  return (
    <div className="add-later-one">
      <p>
        <b>{one.title}</b> {one.article && <cite>{say("art. {{article}}", { article: one.article })}</cite>}
      </p>
      <p className="second">
        {one.help} {one.told}
      </p>
      <ProblemNote error={begin.error} />
      <button type="button" className="jc-button plain small" disabled={begin.isPending} onClick={() => begin.mutate()}>
        {say("Add it")} <span className="jc-hidden">{one.title}</span>
      </button>
    </div>
  );
}

function OneToAdd({ one, reference }: { one: Schemas["ToAdd"]; reference: string }) {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [name, setName] = useState("");
  const add = useMutation({
    mutationFn: () => {
      const body = new FormData();
      body.append("slot", one.slot);
      body.append("name", name);
      if (file) body.append("file", file);
      return ask(
        api.POST("/api/cases/{reference}/later", {
          params: { path: { reference } },
          body: body as unknown as { slot: string; name: string; file: string },
          bodySerializer: () => body,
        }),
      );
    },
    onSuccess: () => {
      setFile(null);
      setName("");
      queries.invalidateQueries();
    },
  });
  return (
    <details>
      <summary>
        {one.title} <span className="second">{one.because}</span>
      </summary>
      <p>{one.says}</p>
      <p className="second">{one.accepts}</p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate();
        }}
      >
        <p className="filing-drop">
          {file ? <b>{file.name}</b> : say("No file chosen yet")}{" "}
          <ChooseFiles
            name={say("File for {{title}}", { title: one.title })}
            onFiles={(list) => {
              add.reset();
              setFile(list[0] ?? null);
            }}
          >
            {file ? say("choose another") : say("choose a file")}
          </ChooseFiles>
        </p>
        <TextInput
          label={say("Your full name, as you sign")}
          description={say("What you declared when you filed holds for this as well.")}
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
        />
        <ProblemNote error={add.error} />
        <button type="submit" className="jc-button" disabled={!file || name.trim().length < 2 || add.isPending}>
          {add.isPending ? say("It is being sent and read…") : say("Sign and add it")}
        </button>
        {add.isSuccess && <p role="status">{say("It is added. The office sees it.")}</p>}
      </form>
    </details>
  );
}
