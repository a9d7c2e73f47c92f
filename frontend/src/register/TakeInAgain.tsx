// A lead takes an entry that was struck into the public register again, by its reference and with the reason.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export function TakeInAgain() {
  const queries = useQueryClient();
  const [reference, setReference] = useState("");
  const [because, setBecause] = useState("");
  const take = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/cases/{reference}/register", {
          params: { path: { reference: reference.trim().toUpperCase() }, header: { "if-match": "*" } },
          body: { struck: false, corrected: {}, because },
        }),
      ),
    onSuccess: () => {
      setReference("");
      setBecause("");
      queries.invalidateQueries({ queryKey: ["register"] });
    },
  });
  return (
    <details className="register-again">
      <summary>{say("An entry was struck and is to stand again")}</summary>
      <form
        className="register-change"
        onSubmit={(e) => {
          e.preventDefault();
          take.mutate();
        }}
      >
        <label>
          {say("Reference of the case")}
          <input className="jc-field" value={reference} maxLength={20} onChange={(e) => setReference(e.target.value)} />
        </label>
        <label>
          {say("By which decision, and why")}
          <input className="jc-field" value={because} maxLength={1000} onChange={(e) => setBecause(e.target.value)} />
        </label>
        <ProblemNote error={take.error} />
        <div className="register-buttons">
          <button
            type="submit"
            className="jc-button"
            disabled={!reference.trim() || because.trim().length < 5 || take.isPending}
          >
            {say("Take it in again")}
          </button>
        </div>
        {take.isSuccess && <p role="status">{say("It stands in the register again.")}</p>}
      </form>
    </details>
  );
}
