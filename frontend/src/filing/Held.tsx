// A page of a filing in which nothing can be written now, and why; and what somebody who was invited may do.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { draftKey } from "../api/views";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import type { Work } from "./draft";
import { INVITED } from "./invited";
import "./others.css";

/** Why nothing can be written on this page now; the owner takes it over from whoever writes it. */
export function Held({ work, id, part }: { work: Work; id: string; part: string }) {
  const queries = useQueryClient();
  const view = work.view;
  const by = view?.written.find((w) => w.part === part);
  const until = by?.until;
  useEffect(() => {
    if (!until) return;
    const wait = Math.max(500, Date.parse(until) - Date.now() + 500);
    const timer = window.setTimeout(() => queries.invalidateQueries({ queryKey: draftKey(id) }), wait);
    return () => window.clearTimeout(timer);
  }, [until, queries, id]);
  const takeOver = useMutation({
    mutationFn: () =>
      work.change((seen) =>
        ask(
          api.PUT("/api/drafts/{draft}/parts/{part}/writer", {
            params: { path: { draft: id, part } },
            headers: seen,
          }),
        ),
      ),
  });
  if (!view?.read_only.includes(part)) return null;
  return (
    <div className="filing-held" role="status">
      <ProblemNote error={takeOver.error} />
      {by ? (
        <p>
          <b>{say("{{name}} is writing here.", { name: by.name })}</b>{" "}
          {say("You can write when they have paused for two minutes.")}{" "}
          {view.own && (
            <button type="button" className="jc-button plain small" onClick={() => takeOver.mutate()}>
              {say("Take it over now")}
            </button>
          )}
        </p>
      ) : (
        <LookOnly />
      )}
    </div>
  );
}

/** Why somebody who was invited can only look. */
function LookOnly() {
  const session = useSession();
  return (
    <p>
      {say("You can look at this. You were not invited to change it.")}{" "}
      {session.data?.person?.guest && <Link to="/account">{say("Set a password to do more here, if you may.")}</Link>}
    </p>
  );
}

/** Whose filing it is to which one was invited; it can be left. `of` is the id of the draft or the reference of the case. */
export function InvitedHere({ of, owner, acting }: { of: string; owner: string; acting: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const leave = useMutation({
    mutationFn: async () => {
      const all = await ask(api.GET("/api/invited"));
      const mine = all.find((one) => [one.draft, one.reference].includes(of));
      if (mine) await ask(api.DELETE("/api/invitations/{invitation}", { params: { path: { invitation: mine.id } } }));
    },
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: INVITED });
      navigate("/cases");
    },
  });
  if (acting)
    return (
      <div className="filing-invited">
        <p>{say("This is a filing of {{owner}}, for whom you act by a mandate.", { owner })}</p>
      </div>
    );
  return (
    <div className="filing-invited">
      <ProblemNote error={leave.error} />
      <p>{say("This is a filing of {{owner}}, who files it and invites others.", { owner })}</p>
      <button type="button" className="jc-link quiet" onClick={() => leave.mutate()}>
        {say("Leave this filing")}
      </button>
    </div>
  );
}
