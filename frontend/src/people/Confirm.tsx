// An address that is not confirmed yet: the code that was sent to it, typed in a bar above every page.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import "./people.css";

export function Confirm() {
  const session = useSession();
  const queries = useQueryClient();
  const [code, setCode] = useState("");
  const confirm = useMutation({
    mutationFn: () => ask(api.POST("/api/session/confirmation", { body: { code } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["session"] }),
  });
  const again = useMutation({ mutationFn: () => ask(api.POST("/api/session/code")) });
  if (session.data?.person?.confirmed !== false) return null;
  return (
    <form
      className="people-confirm"
      aria-label={say("Confirm your mail address")}
      onSubmit={(e) => {
        e.preventDefault();
        again.reset();
        confirm.mutate();
      }}
    >
      <label htmlFor="confirm-code">
        <b>{say("Confirm your mail address.")}</b>{" "}
        {say(
          "We sent a code of six digits to {{mail}}. You can prepare everything now, and file once it is confirmed.",
          {
            mail: session.data.mail,
          },
        )}
      </label>
      <input
        id="confirm-code"
        inputMode="numeric"
        autoComplete="one-time-code"
        size={8}
        value={code}
        onChange={(e) => setCode(e.target.value)}
      />
      <button type="submit" className="jc-button small" disabled={code.trim().length < 6 || confirm.isPending}>
        {say("Confirm")}
      </button>
      <button type="button" className="jc-link" disabled={again.isPending} onClick={() => again.mutate()}>
        {say("send a new code")}
      </button>
      {again.isSuccess && <span role="status">{say("A new code is on its way; the older one works no more.")}</span>}
      {session.data.demo && <small>{say("In the demo, mail lies in the folder post-room of the office.")}</small>}
      <ProblemNote error={confirm.error ?? again.error} />
    </form>
  );
}
