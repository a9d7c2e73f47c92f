// A session that ended while somebody was at work: the password is asked over the page, which goes on afterwards.
import { Modal } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas, SESSION_BACK } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { fetchSession } from "../shared/session";
import { say } from "../shared/text";
import { CodeField, MailField, PasswordField, wantsCode } from "./Fields";
import "./signin.css";

export function SignInAgain({ was }: { was: Schemas["SessionOut"] }) {
  const queries = useQueryClient();
  const [mail, setMail] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const person = was.person;
  const enter = useMutation({
    mutationFn: () =>
      was.demo && person
        ? ask(api.POST("/api/session/by-click", { body: { person: person.id } }))
        : ask(api.POST("/api/session/sign-in", { body: { mail, password, code } })),
    onSuccess: async () => {
      const now = await queries.fetchQuery({
        queryKey: ["session"],
        queryFn: fetchSession,
        staleTime: 0,
      });
      if (now.person?.id !== person?.id)
        window.location.assign("/"); // somebody else: nothing of this page is theirs
      else {
        await queries.refetchQueries({ queryKey: ["session"] });
        window.dispatchEvent(new Event(SESSION_BACK));
      }
    },
  });
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title={say("You have been signed out")}
      centered
      transitionProps={{ duration: 0 }}
      classNames={{ content: "jc jc-dialog", title: "jc-dialog-title" }}
    >
      <p>{say("Sign in again and go on. What you typed is still here.")}</p>
      <form
        className="passwords"
        onSubmit={(e) => {
          e.preventDefault();
          enter.mutate();
        }}
      >
        {!was.demo && (
          <>
            <MailField value={mail} onChange={setMail} focus />
            <PasswordField value={password} onChange={setPassword} />
            {wantsCode(enter.error, code) && <CodeField value={code} onChange={setCode} />}
          </>
        )}
        <ProblemNote error={enter.error} />
        <p>
          <button type="submit" className="jc-button" disabled={enter.isPending}>
            {person ? say("Go on as {{name}}", { name: person.name }) : say("Sign in")}
          </button>{" "}
          <a href="/">{say("Leave this page")}</a>
        </p>
      </form>
    </Modal>
  );
}
