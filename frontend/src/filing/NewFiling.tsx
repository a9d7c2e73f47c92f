// Which application to begin.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import { KindCards } from "./KindCards";
import "./kinds.css";

type Beginning = { kind: string; answers?: Record<string, Record<string, unknown>> };

export function NewFiling() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: () => ask(api.GET("/api/kinds")) });
  const begin = useMutation({
    mutationFn: ({ kind, answers }: Beginning) =>
      ask(api.POST("/api/drafts", { body: { kind, answers: answers ?? {} } })),
    onSuccess: (started) => {
      queries.invalidateQueries({ queryKey: ["drafts"] });
      navigate(`/filing/${started.id}`);
    },
  });
  return (
    <main className="jc-page">
      <h1>{say("New filing")}</h1>
      <p className="second">
        {say("Everything you type is kept. You can leave and come back; nothing is sent before you file it.")}
      </p>
      <ProblemNote error={kinds.error ?? begin.error} />
      {kinds.isPending && <Skeleton lines={4} />}
      <KindCards
        kinds={kinds.data ?? []}
        className="jc-cards"
        level="h2"
        foot={(kind) => (
          <p className="jc-card-foot">
            <button
              type="button"
              className="jc-button"
              disabled={begin.isPending}
              aria-label={say("Begin: {{title}}", { title: kind.title })}
              onClick={() => (kind.has_way_in ? navigate(`/way-in/${kind.kind}`) : begin.mutate({ kind: kind.kind }))}
            >
              {say("Begin")}
            </button>{" "}
          </p>
        )}
      />
    </main>
  );
}
