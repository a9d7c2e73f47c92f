// Somebody who opened the link of an invitation: who invites them, a code by mail, and in.
import { TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import "./signin.css";

export function InvitedByLink() {
  const { secret = "" } = useParams();
  const params = { path: { secret } };
  const [code, setCode] = useState("");
  const session = useSession();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const door = useQuery({
    queryKey: ["invited-by-link", secret],
    queryFn: () => ask(api.GET("/api/invited-by-link/{secret}", { params })),
    retry: false,
  });
  const send = useMutation({ mutationFn: () => ask(api.POST("/api/invited-by-link/{secret}/code", { params })) });
  const comeIn = useMutation({
    mutationFn: () => ask(api.POST("/api/invited-by-link/{secret}/session", { params, body: { code } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate("/cases");
    },
  });
  useHeading(true);
  if (door.isPending) return <Skeleton lines={4} />;
  return (
    <main className="jc-page invited-by-link">
      <h1 tabIndex={-1}>{say("You were invited")}</h1>
      <ProblemNote error={door.error} />
      {door.data && (
        <>
          <p>{say("{{owner}} invites {{name}} to a filing.", { owner: door.data.owner, name: door.data.name })}</p>
          {session.data?.person ? (
            <p>
              <Link to="/cases">
                {say("You are signed in as {{name}}. To your cases", { name: session.data.person.name })}
              </Link>
            </p>
          ) : door.data.has_account ? (
            <p>
              {say("Your address has an account here. Sign in with it; you find the filing under “You were invited”.")}{" "}
              <Link to="/">{say("Sign in")}</Link>
            </p>
          ) : (
            <form
              className="passwords"
              onSubmit={(e) => {
                e.preventDefault();
                if (send.isSuccess) comeIn.mutate();
                else send.mutate();
              }}
            >
              <ProblemNote error={comeIn.error ?? send.error} />
              {!send.isSuccess ? (
                <p>
                  {say("We send a code to {{mail}}, so that nobody else comes in with this link.", {
                    mail: door.data.mail,
                  })}
                </p>
              ) : (
                <>
                  <TextInput
                    label={say("The code that we sent to {{mail}}", { mail: door.data.mail })}
                    inputMode="numeric"
                    autoComplete="one-time-code"
                    value={code}
                    onChange={(e) => setCode(e.target.value)}
                  />
                  {session.data?.demo && (
                    <small>{say("In the demo, mail lies in the folder post-room of the office.")}</small>
                  )}
                </>
              )}
              <button
                type="submit"
                className="jc-button"
                disabled={send.isPending || comeIn.isPending || (send.isSuccess && code.trim().length < 6)}
              >
                {send.isSuccess ? say("Come in") : say("Send me the code")}
              </button>{" "}
              {send.isSuccess && (
                <button type="button" className="jc-link" onClick={() => send.mutate()}>
                  {say("send a new code")}
                </button>
              )}
            </form>
          )}
        </>
      )}
    </main>
  );
}
