// A file put into another shape here: turned, made smaller, cut in two, several as one PDF; and as it came again.
import { NumberInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";
import { isBeingRead, type Work } from "./draft";
import "./remake.css";

type File = Schemas["FileView"];
type How = Schemas["RemakeFiles"]["how"];
const PICTURES = ["jpeg", "png", "tiff"];

const isPicture = (file: File) => PICTURES.includes(file.type);
/** True for a file that can be changed here. */
const canChange = (file: File) =>
  !isBeingRead(file) && file.opens === "yes" && (file.type === "pdf" || isPicture(file));

function useRemake(work: Work, id: string) {
  return useMutation({
    mutationFn: (body: { how: How; files: string[]; degrees?: 90 | 180 | 270; before?: number }) =>
      work.change((seen) =>
        ask(
          api.POST("/api/drafts/{draft}/remade", {
            params: { path: { draft: id } },
            headers: seen,
            body: { degrees: 90, before: 2, ...body },
          }),
        ),
      ),
  });
}

/** What can be made of one file, and what it was made from. */
export function RemakeFile({ work, id, file }: { work: Work; id: string; file: File }) {
  const remake = useRemake(work, id);
  const [before, setBefore] = useState(2);
  const own = file.attachment;
  const back = useMutation({
    mutationFn: () =>
      work.change((seen) =>
        ask(
          api.DELETE("/api/drafts/{draft}/remade/{attachment}", {
            params: { path: { draft: id, attachment: own.id } },
            headers: seen,
          }),
        ),
      ),
  });
  const sources = own.made_from ?? [];
  const make = (how: How, more: { degrees?: 90 | 180 | 270; before?: number } = {}) =>
    remake.mutate({ how, files: [own.id], ...more });
  const named = <span className="jc-hidden"> {own.name}</span>;
  const link = (text: string, act: () => void) => (
    <button type="button" className="jc-link" disabled={remake.isPending} onClick={act}>
      {text}
      {named}
    </button>
  );
  return (
    <>
      {sources.length > 0 && (
        <p className="second">
          {say("Made here from {{files}}.", { files: sources.map((s) => `“${s.name}”`).join(", ") })}{" "}
          {link(say("Put back what came"), () => back.mutate())}
        </p>
      )}
      <ProblemNote error={remake.error ?? back.error} />
      {remake.isPending && (
        <p className="second" role="status">
          {say("It is being made…")}
        </p>
      )}
      {canChange(file) && (
        <details className="remake">
          <summary>
            {say("Change this file")}
            {named}
          </summary>
          {file.signed ? (
            <p className="second">{say("It bears a signature, which a change would break. It stays as it is.")}</p>
          ) : (
            <p className="remake-ways">
              {link(say("Turn right"), () => make("turned", { degrees: 90 }))}
              {link(say("Turn left"), () => make("turned", { degrees: 270 }))}
              {link(say("Turn upside down"), () => make("turned", { degrees: 180 }))}
              {link(say("Make it smaller"), () => make("smaller"))}
              {isPicture(file) && link(say("Make a PDF of it"), () => make("together"))}
              {file.pages > 1 && (
                <span className="remake-cut">
                  {link(say("Cut it before sheet"), () => make("apart", { before }))}
                  <NumberInput
                    aria-label={say("Sheet before which it is cut")}
                    size="xs"
                    w={64}
                    min={2}
                    max={file.pages}
                    value={before}
                    onChange={(value) => setBefore(Number(value) || 2)}
                  />
                </span>
              )}
            </p>
          )}
        </details>
      )}
    </>
  );
}

/** Several files of a slot as one PDF, in the order in which they stand. */
export function JoinFiles({ work, id, files }: { work: Work; id: string; files: File[] }) {
  const remake = useRemake(work, id);
  const joined = files.filter((f) => canChange(f) && !f.signed);
  if (joined.length < 2) return null;
  return (
    <div className="remake-join">
      <ProblemNote error={remake.error} />
      <button
        type="button"
        className="jc-button plain small"
        disabled={remake.isPending}
        onClick={() => remake.mutate({ how: "together", files: joined.map((f) => f.attachment.id) })}
      >
        {say("Make one PDF of the {{files}}", { files: things(joined.length, "file") })}
      </button>
    </div>
  );
}
