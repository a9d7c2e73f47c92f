// Papers of a pile that are another filing: its kind is proposed by what they are, and for whom it is has to be said.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";
import { KindChoice } from "./Counter";
import { type Applying, NOBODY, WhoApplies } from "./WhoApplies";
import "./counter.css";

export function OtherFiling({
  draft,
  pieces,
  onClose,
  onMoved,
}: {
  draft: string;
  pieces: string[];
  onClose: () => void;
  onMoved: () => void;
}) {
  const likely = useQuery({
    queryKey: ["likely", draft, ...pieces],
    queryFn: () =>
      ask(api.GET("/api/counter/filings/{draft}/likely", { params: { path: { draft }, query: { pieces } } })),
    enabled: pieces.length > 0,
  });
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: () => ask(api.GET("/api/kinds")) });
  const first = likely.data?.[0];
  const [chosen, setChosen] = useState("");
  const [who, setWho] = useState<Applying>(NOBODY);
  const kind = chosen || first?.kind || "";
  const split = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/counter/filings/{draft}/split", {
          params: { path: { draft } },
          body: { kind, pieces, ...who, name: who.person ? "" : who.name },
        }),
      ),
    onSuccess: onMoved,
  });
  return (
    <Dialog
      title={say("{{papers}} for another filing", { papers: things(pieces.length, "paper") })}
      opened={pieces.length > 0}
      onClose={onClose}
    >
      <form
        className="counter-new other-filing"
        onSubmit={(e) => {
          e.preventDefault();
          split.mutate();
        }}
      >
        {split.data ? (
          <p role="status">
            {say("They are in a filing of their own now.")}{" "}
            <Link to={`/filing/${split.data.id}/pile`} data-autofocus onClick={onClose}>
              {say("Go on there")}
            </Link>{" "}
            <button type="button" className="jc-link" onClick={onClose}>
              {say("Stay here")}
            </button>
          </p>
        ) : (
          <>
            <KindChoice kinds={kinds.data ?? []} value={kind} onChange={setChosen} />
            {first && !chosen && <p className="second">{say("Proposed: {{because}}.", { because: first.because })}</p>}
            <WhoApplies value={who} onChange={setWho} />
            <ProblemNote error={split.error} />
            <button type="submit" className="jc-button" disabled={!kind || !who.name.trim() || split.isPending}>
              {say("Begin it with these")}
            </button>
          </>
        )}
      </form>
    </Dialog>
  );
}
