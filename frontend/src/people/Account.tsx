// The own account: the password.
import { PasswordInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import "./people.css";

export function Account() {
  const session = useSession();
  const [before, setBefore] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => ask(api.POST("/api/session/password", { body: { old: before, new: fresh } })),
    onSuccess: () => {
      setBefore("");
      setFresh("");
    },
  });
  return (
    <main className="jc-page">
      <h1>{session.data?.person?.name}</h1>
      <p className="second">{session.data?.person?.role}</p>
      <form
        className="passwords"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate();
        }}
      >
        <h2>Change the password</h2>
        <PasswordInput
          label="Old password"
          autoComplete="current-password"
          value={before}
          onChange={(e) => setBefore(e.target.value)}
        />
        <PasswordInput
          label="New password"
          description="At least 10 characters."
          autoComplete="new-password"
          value={fresh}
          onChange={(e) => setFresh(e.target.value)}
        />
        <ProblemNote error={change.error} />
        <button type="submit" className="jc-button" disabled={!fresh || change.isPending}>
          Change it
        </button>
        {change.isSuccess && <p role="status">Changed.</p>}
      </form>
    </main>
  );
}
