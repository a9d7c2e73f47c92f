// Messages in a case, both ways and with files; read or not yet.
import { Textarea } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { CaseView } from "../api/views";
import { ChooseFiles } from "./ChooseFiles";
import { useChangeCase } from "./caseView";
import { ProblemNote } from "./Notes";
import { exactly, size } from "./say";
import { useSession } from "./session";
import { say } from "./text";
import "./messages.css";

export function Messages({ view, office }: { view: CaseView; office?: boolean }) {
  const { reference } = view;
  const [text, setText] = useState("");
  const [files, setFiles] = useState<File[]>([]);
  const change = useChangeCase(reference);
  const role = useSession().data?.person?.role;
  const may = view.assessment.moves.some((m) => m.role === role && m.move === "write" && m.allowed);
  const send = useMutation({
    mutationFn: () =>
      change((seen) =>
        ask(
          api.POST("/api/cases/{reference}/messages", {
            params: { path: { reference } },
            headers: seen,
            body: { text, files: [] },
            bodySerializer: () => {
              const form = new FormData();
              form.append("text", text);
              for (const file of files) form.append("files", file, file.name);
              return form;
            },
          }),
        ),
      ),
    onSuccess: () => {
      setText("");
      setFiles([]);
    },
  });
  return (
    <section className="messages" aria-label={say("Messages")}>
      <h2>{say("Messages")}</h2>
      {view.messages.length === 0 && (
        <p className="second">
          {say("Nobody has written yet. Questions go here; answers to a letter go into the letter's points.")}
        </p>
      )}
      <ol>
        {view.messages.map((m) => (
          <li key={m.no} className={m.office === !!office ? "own" : ""}>
            <p className="messages-who">
              <b>{m.who}</b>{" "}
              <small title={exactly(m.at)}>
                {exactly(m.at)} · {m.read_at ? say("read") : say("not read yet")}
              </small>
            </p>
            <p className="messages-text">{m.text}</p>
            {m.files.map((f) => (
              <p key={f.sha256}>
                <a href={`/api/cases/${reference}/files/${f.sha256}`} target="_blank" rel="noreferrer">
                  {f.name}
                </a>{" "}
                <small>{size(f.size)}</small>
              </p>
            ))}
          </li>
        ))}
      </ol>
      {may && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            send.mutate();
          }}
        >
          <Textarea
            label={office ? say("Write to the applicant") : say("Write to the office")}
            autosize
            minRows={2}
            maxLength={4000}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <ProblemNote error={send.error} />
          <p>
            <button type="submit" className="jc-button small" disabled={!text.trim() || send.isPending}>
              {say("Send the message")}
            </button>{" "}
            <ChooseFiles name={say("Files for the message")} onFiles={setFiles}>
              {files.length ? files.map((f) => f.name).join(", ") : say("add files")}
            </ChooseFiles>
          </p>
        </form>
      )}
    </section>
  );
}
