// A lead's decision on an entry of the public register: other words for what it says, or struck, each with its reason.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export type Line = Omit<Schemas["RegisterLine"], "says" | "at"> & { says: string[][]; at: number[] | null };

export function ChangeEntry({ line, onDone }: { line: Line; onDone: () => void }) {
  const queries = useQueryClient();
  const [says, setSays] = useState<Record<string, string>>({});
  const [because, setBecause] = useState("");
  const change = useMutation({
    mutationFn: (struck: boolean) =>
      ask(
        api.POST("/api/cases/{reference}/register", {
          params: { path: { reference: line.reference }, header: { "if-match": "*" } },
          body: { struck, corrected: struck ? {} : says, because },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["register"] });
      onDone();
    },
  });
  const ready = because.trim().length >= 5 && !change.isPending;
  return (
    <form
      className="register-change"
      aria-label={say("Decide on {{reference}}", { reference: line.reference })}
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate(false);
      }}
    >
      {line.says.map(([label, value]) => (
        <label key={String(label)}>
          {String(label)}
          <input
            className="jc-field"
            value={says[String(label)] ?? String(value)}
            maxLength={400}
            onChange={(e) => setSays({ ...says, [String(label)]: e.target.value })}
          />
        </label>
      ))}
      <label>
        {say("By which decision, and why")}
        <input className="jc-field" value={because} maxLength={1000} onChange={(e) => setBecause(e.target.value)} />
      </label>
      <ProblemNote error={change.error} />
      <div className="register-buttons">
        <button type="submit" className="jc-button" disabled={!ready || Object.keys(says).length === 0}>
          {say("Correct it")}
        </button>
        <button type="button" className="jc-button plain" disabled={!ready} onClick={() => change.mutate(true)}>
          {say("Strike it from the register")}
        </button>
        <button type="button" className="jc-link" onClick={onDone}>
          {say("cancel")}
        </button>
      </div>
    </form>
  );
}
