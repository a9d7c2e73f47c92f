// Accounts with a password: sign in, make an account, forgotten password, a new one by a one-time link.
import { TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { CodeField, MailField, PasswordField, wantsCode } from "./Fields";
import "./signin.css";

type Doing = "sign in" | "sign up" | "forgotten";

export function Passwords({ first }: { first?: boolean }) {
  const [doing, setDoing] = useState<Doing>(first ? "sign up" : "sign in");
  const [name, setName] = useState("");
  const [mail, setMail] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const queries = useQueryClient();
  const go = useMutation({
    mutationFn: () =>
      doing === "sign in"
        ? ask(api.POST("/api/session/sign-in", { body: { mail, password, code } }))
        : doing === "sign up"
          ? ask(api.POST("/api/session/sign-up", { body: { name, mail, password } }))
          : ask(api.POST("/api/session/forgotten", { body: { mail } })),
    onSuccess: () => doing !== "forgotten" && queries.invalidateQueries(),
  });
  function turn(to: Doing) {
    go.reset();
    setCode("");
    setDoing(to);
  }
  const title = { "sign in": say("Sign in"), "sign up": say("Make an account"), forgotten: say("A new password") }[
    doing
  ];
  return (
    <form
      className="passwords"
      aria-label={title}
      onSubmit={(e) => {
        e.preventDefault();
        go.mutate();
      }}
    >
      <h3>{title}</h3>
      {doing === "sign up" && (
        <TextInput
          label={say("Your name")}
          description={say("As it should stand in letters.")}
          autoComplete="name"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      )}
      <MailField value={mail} onChange={setMail} />
      {doing !== "forgotten" && <PasswordField value={password} onChange={setPassword} fresh={doing === "sign up"} />}
      {doing === "sign in" && wantsCode(go.error, code) && <CodeField value={code} onChange={setCode} />}
      <ProblemNote error={go.error} />
      {doing === "forgotten" && go.isSuccess ? (
        <p role="status">{say("If this address has an account, a link is on its way. It works for two hours.")}</p>
      ) : (
        <button
          type="submit"
          className="jc-button"
          disabled={go.isPending || !mail || (doing !== "forgotten" && !password)}
        >
          {doing === "forgotten" ? say("Send me a link") : title}
        </button>
      )}
      <p className="passwords-other">
        {doing !== "sign in" && (
          <button type="button" className="jc-link" onClick={() => turn("sign in")}>
            {say("I have an account")}
          </button>
        )}
        {doing !== "sign up" && (
          <button type="button" className="jc-link" onClick={() => turn("sign up")}>
            {say("I am new here")}
          </button>
        )}
        {doing !== "forgotten" && (
          <button type="button" className="jc-link" onClick={() => turn("forgotten")}>
            {say("I forgot my password")}
          </button>
        )}
      </p>
    </form>
  );
}

/** The page of a one-time link. */
export function NewPassword() {
  const { secret = "" } = useParams();
  const [password, setPassword] = useState("");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const set = useMutation({
    mutationFn: () => ask(api.POST("/api/session/new-password", { body: { secret, password } })),
    onSuccess: () => {
      queries.invalidateQueries();
      navigate("/");
    },
  });
  return (
    <main className="jc-page" id="main">
      <h1>{say("Set your password")}</h1>
      <form
        className="passwords"
        onSubmit={(e) => {
          e.preventDefault();
          set.mutate();
        }}
      >
        <PasswordField value={password} onChange={setPassword} fresh label={say("New password")} />
        <ProblemNote error={set.error} />
        <button type="submit" className="jc-button" disabled={!password || set.isPending}>
          {say("Set it and come in")}
        </button>
      </form>
      <p>
        <Link to="/">{say("Back to the start")}</Link>
      </p>
    </main>
  );
}
