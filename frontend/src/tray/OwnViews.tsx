// Views of the in-tray that one keeps under a name.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import "./own-views.css";

export function OwnViews({ shown }: { shown: { whose: string; kind: string; view: string } }) {
  const queries = useQueryClient();
  const views = useQuery({ queryKey: ["own-views"], queryFn: () => ask(api.GET("/api/views")) });
  const [name, setName] = useState<string | null>(null);
  const again = () => queries.invalidateQueries({ queryKey: ["own-views"] });
  const keep = useMutation({
    mutationFn: () => ask(api.POST("/api/views", { body: { name: name ?? "", ...shown } })),
    onSuccess: () => {
      setName(null);
      again();
    },
  });
  const drop = useMutation({
    mutationFn: (view: string) => ask(api.DELETE("/api/views/{view}", { params: { path: { view } } })),
    onSuccess: again,
  });
  const search = (of: { whose: string; kind: string; view: string }) =>
    new URLSearchParams(Object.entries(of).filter(([, value]) => value)).toString();
  return (
    <>
      <h2>{say("My views")}</h2>
      <ul className="own-views">
        {views.data?.map((one) => (
          <li key={one.id}>
            <Link to={`/tray?${search({ whose: one.whose, kind: one.kind, view: one.view })}`}>{one.name}</Link>
            <button
              type="button"
              aria-label={say("drop the view {{name}}", { name: one.name })}
              onClick={() => drop.mutate(one.id)}
            >
              ×
            </button>
          </li>
        ))}
        <li>
          {name === null ? (
            <button type="button" className="jc-link" onClick={() => setName("")}>
              {say("keep this one…")}
            </button>
          ) : (
            <form
              onSubmit={(e) => {
                e.preventDefault();
                keep.mutate();
              }}
            >
              <input
                aria-label={say("Name of the view")}
                autoFocus
                value={name}
                maxLength={40}
                onChange={(e) => setName(e.target.value)}
                onKeyDown={(e) => e.key === "Escape" && setName(null)}
              />
              <ProblemNote error={keep.error} />
            </form>
          )}
        </li>
      </ul>
    </>
  );
}
