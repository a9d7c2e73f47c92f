// Where the rules ask for it, filing is confirmed by a code that comes by text message.
import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask, problemOf } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { CodeField } from "../signin/Fields";

export function CodeByText({ code, onCode }: { code: string; onCode: (code: string) => void }) {
  const send = useMutation({ mutationFn: () => ask(api.POST("/api/session/code-by-text")) });
  const none = !!send.error && problemOf(send.error).place === "number";
  return (
    <div>
      <p>{say("This kind is filed with a code that comes by text message.")}</p>
      {send.isSuccess && (
        <>
          <p role="status">
            {say("We sent it to the number that ends in {{digits}}. It works for 30 minutes.", {
              digits: send.data.digits,
            })}
          </p>
          <CodeField value={code} onChange={onCode} />
        </>
      )}
      <ProblemNote error={send.error} />
      {none && (
        <p>
          <Link to="/account">{say("To your account")}</Link>
        </p>
      )}
      <button type="button" className="jc-button plain small" disabled={send.isPending} onClick={() => send.mutate()}>
        {send.isSuccess ? say("Send a new code") : say("Send me a code")}
      </button>
    </div>
  );
}
