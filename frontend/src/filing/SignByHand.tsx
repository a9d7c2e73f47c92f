// A filing signed by hand: the sheet is printed, signed, scanned and attached here; it is known again by its code.
import { TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";

export function SignByHand({ work, id }: { work: Work; id: string }) {
  const [name, setName] = useState("");
  const sign = useMutation({
    mutationFn: (file: File) =>
      work.change((seen) => {
        const body = new FormData();
        body.append("name", name);
        body.append("file", file);
        return ask(
          api.POST("/api/drafts/{draft}/signing-sheet", {
            params: { path: { draft: id } },
            headers: seen,
            body: body as unknown as { name: string; file: string },
            bodySerializer: () => body,
          }),
        );
      }),
  });
  return (
    <details className="filing-by-hand">
      <summary>{say("Sign by hand instead")}</summary>
      <ol>
        <li>
          <a href={`/api/drafts/${id}/signing-sheet`} target="_blank" rel="noreferrer">
            {say("Print the sheet (PDF)")}
          </a>{" "}
          <span className="second">{say("It is made for the filing as it stands now.")}</span>
        </li>
        <li>{say("Sign it with a pen, and scan or photograph all of it.")}</li>
        <li>
          <TextInput
            label={say("Name of whoever signed it")}
            value={name}
            onChange={(e) => setName(e.target.value)}
            maxLength={120}
          />
          {name.trim().length > 1 && (
            <p className="filing-drop">
              <ChooseFiles name={say("The signed sheet")} onFiles={(list) => list[0] && sign.mutate(list[0])}>
                {say("attach the signed sheet")}
              </ChooseFiles>
            </p>
          )}
        </li>
      </ol>
      {sign.isPending && (
        <p role="status" className="second">
          {say("The sheet is being read…")}
        </p>
      )}
      <ProblemNote error={sign.error} />
    </details>
  );
}
