// A draft transferred to somebody else: offered here, taken over or declined on the first page of whoever it is offered to.
import { TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";

export function Transfer({ work, id }: { work: Work; id: string }) {
  const [open, setOpen] = useState(false);
  const [mail, setMail] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (open) field.current?.focus();
  }, [open]);
  const params = { path: { draft: id } };
  const offer = useMutation({
    mutationFn: () =>
      work.change((seen) => ask(api.POST("/api/drafts/{draft}/offer", { params, headers: seen, body: { mail } }))),
    onSuccess: () => setOpen(false),
  });
  const takeBack = useMutation({
    mutationFn: () => work.change((seen) => ask(api.DELETE("/api/drafts/{draft}/offer", { params, headers: seen }))),
  });
  const offered = work.view?.offered_to;
  return (
    <div className="filing-transfer">
      <ProblemNote error={offer.error ?? takeBack.error} />
      {offered ? (
        <p role="status">
          {say("Offered to {{mail}}. It stays yours until they accept it.", { mail: offered })}{" "}
          <button type="button" className="jc-link quiet" onClick={() => takeBack.mutate()}>
            {say("Take the offer back")}
          </button>
        </p>
      ) : open ? (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            offer.mutate();
          }}
        >
          <TextInput
            label={say("Mail address of whoever takes it over")}
            size="xs"
            type="email"
            required
            value={mail}
            onChange={(e) => setMail(e.target.value)}
            description={say("They have to accept it. Then you see it no more, and they promise and sign anew.")}
            ref={field}
          />
          <button type="submit" className="jc-button plain small" disabled={offer.isPending}>
            {say("Offer it")}
          </button>{" "}
          <button type="button" className="jc-link quiet" onClick={() => setOpen(false)}>
            {say("Not now")}
          </button>
        </form>
      ) : (
        <button type="button" className="jc-link quiet" onClick={() => setOpen(true)}>
          {say("Transfer it to somebody else")}
        </button>
      )}
    </div>
  );
}

const OFFERED = ["offered-drafts"];

/** What somebody else offers, with who that is; it is seen only once it is taken over. */
export function OfferedToMe() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const offered = useQuery({ queryKey: OFFERED, queryFn: () => ask(api.GET("/api/offered-drafts")) });
  const accept = useMutation({
    mutationFn: (draft: string) => ask(api.POST("/api/offered-drafts/{draft}", { params: { path: { draft } } })),
    onSuccess: ({ id }) => navigate(`/filing/${id}`),
    onSettled: () => queries.invalidateQueries({ queryKey: OFFERED }),
  });
  const decline = useMutation({
    mutationFn: (draft: string) => ask(api.DELETE("/api/offered-drafts/{draft}", { params: { path: { draft } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: OFFERED }),
  });
  if (!offered.data?.length) return null;
  return (
    <section aria-label={say("Offered to you")}>
      <h2>
        {say("Offered to you")} <span>{offered.data.length}</span>
      </h2>
      <ProblemNote error={accept.error ?? decline.error} />
      {offered.data.map((d) => (
        <div key={d.id} className="cases-row urgent">
          <span className="cases-what">
            <b>{say("{{owner}} offers you a filing", { owner: d.owner })}</b>
            <small>
              {d.kind_title}
              {d.own_reference && ` · “${d.own_reference}”`}
            </small>
          </span>
          <button type="button" className="jc-button small" onClick={() => accept.mutate(d.id)}>
            {say("Take it over")}
          </button>
          <button type="button" className="jc-link" onClick={() => decline.mutate(d.id)}>
            {say("Decline")}
          </button>
          <span />
        </div>
      ))}
    </section>
  );
}
