// Somebody whose filing the office recorded makes an account, by the code that stands on the letter.
import { TextInput } from "@mantine/core";
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { MailField, PasswordField } from "./Fields";
import "./signin.css";

export function Claim() {
  const [code, setCode] = useState("");
  const [mail, setMail] = useState("");
  const [password, setPassword] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  useDocumentTitle(say("Follow your case"));
  const go = useMutation({
    mutationFn: () => ask(api.POST("/api/session/claim", { body: { code, mail, password } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      navigate("/cases");
    },
  });
  return (
    <main className="jc-page">
      <h1>{say("Follow your case")}</h1>
      <p>
        {say(
          "The office recorded your application. With the code on its letter you make an account: then you see where your case is, pay and answer here.",
        )}
      </p>
      <form
        className="passwords"
        onSubmit={(e) => {
          e.preventDefault();
          go.mutate();
        }}
      >
        <TextInput
          label={say("Code on the letter")}
          value={code}
          onChange={(e) => setCode(e.target.value)}
          placeholder="1A2B3-C4D5E"
        />
        <MailField value={mail} onChange={setMail} />
        <PasswordField value={password} onChange={setPassword} fresh />
        <ProblemNote error={go.error} />
        <button
          type="submit"
          className="jc-button"
          disabled={go.isPending || code.trim().length < 10 || !mail || !password}
        >
          {say("Make the account")}
        </button>
      </form>
    </main>
  );
}
