// Firms: founded, who belongs to them, and going on as one of them.
import { Checkbox, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useActing } from "../shared/ActingAs";
import { ProblemNote } from "../shared/Notes";
import { dayOf } from "../shared/say";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { MailField } from "../signin/Fields";
import "./mandates.css";
import "./people.css";

type Firm = Schemas["FirmView"];
const KEY = ["firms"];

export function Firms() {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const told = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/firms")) });
  const keep = (firms: Firm[]) => queries.setQueryData(KEY, firms);
  const found = useMutation({
    mutationFn: () => ask(api.POST("/api/firms", { body: { name } })),
    onSuccess: (firms) => {
      keep(firms);
      setName("");
    },
  });
  return (
    <section className="passwords firms" aria-label={say("Firms")}>
      <h2>{say("Firms")}</h2>
      <p className="second">
        {say(
          "The filings of a firm are the firm's: everybody who belongs to it prepares, files, pays and answers them, and sees them all.",
        )}
      </p>
      {told.data?.map((firm) => (
        <OneFirm key={firm.id} firm={firm} onKept={keep} />
      ))}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          found.mutate();
        }}
      >
        <TextInput label={say("Name of a new firm")} value={name} onChange={(e) => setName(e.target.value)} />
        <ProblemNote error={found.error} />
        <button type="submit" className="jc-button plain" disabled={name.trim().length < 2 || found.isPending}>
          {say("Make this firm")}
        </button>
      </form>
    </section>
  );
}

function OneFirm({ firm, onKept }: { firm: Firm; onKept: (firms: Firm[]) => void }) {
  const session = useSession();
  const act = useActing();
  const accept = useMutation({
    mutationFn: () => ask(api.POST("/api/firms/{firm}/acceptance", { params: { path: { firm: firm.id } } })),
    onSuccess: onKept,
  });
  const end = useMutation({
    mutationFn: (member: string) =>
      ask(api.DELETE("/api/firms/{firm}/members/{member}", { params: { path: { firm: firm.id, member } } })),
    onSuccess: onKept,
  });
  const keeper = useMutation({
    mutationFn: ({ member, is }: { member: string; is: boolean }) =>
      ask(
        api.PUT("/api/firms/{firm}/members/{member}", {
          params: { path: { firm: firm.id, member } },
          body: { keeper: is },
        }),
      ),
    onSuccess: onKept,
  });
  const own = firm.members.find((m) => m.own);
  return (
    <section className="firm" aria-label={firm.name}>
      <h3>{firm.name}</h3>
      {firm.asked ? (
        <p>
          {say("You are asked to belong to it.")}{" "}
          <button type="button" className="jc-button small" disabled={accept.isPending} onClick={() => accept.mutate()}>
            {say("Accept")}
          </button>{" "}
          {own && (
            <button type="button" className="jc-link" disabled={end.isPending} onClick={() => end.mutate(own.id)}>
              {say("Decline")}
            </button>
          )}
        </p>
      ) : (
        <>
          <p>
            {session.data?.acts_as === firm.name ? (
              <b>{say("You go on as this firm.")}</b>
            ) : (
              <button
                type="button"
                className="jc-button small"
                disabled={act.isPending}
                onClick={() => act.mutate(firm.id)}
              >
                {say("Go on as {{firm}}", { firm: firm.name })}
              </button>
            )}
          </p>
          <ul>
            {firm.members.map((m) => (
              <li key={m.id}>
                <b>{m.name}</b> <span className="second">{m.mail}</span>{" "}
                <span className="second">
                  {m.since ? say("since {{day}}", { day: dayOf(m.since) }) : say("asked, not accepted yet")}
                </span>
                {m.keeper && <span> · {say("keeper")}</span>}
                {firm.keeper && (
                  <>
                    {" "}
                    <button
                      type="button"
                      className="jc-link"
                      disabled={keeper.isPending}
                      onClick={() => keeper.mutate({ member: m.id, is: !m.keeper })}
                    >
                      {m.keeper ? say("no keeper any more") : say("make a keeper")}
                      <span className="jc-hidden"> {m.name}</span>
                    </button>
                  </>
                )}
                {(firm.keeper || m.own) && (
                  <>
                    {" "}
                    <button type="button" className="jc-link" disabled={end.isPending} onClick={() => end.mutate(m.id)}>
                      {m.own ? say("leave the firm") : say("take out")}
                      <span className="jc-hidden"> {m.name}</span>
                    </button>
                  </>
                )}
              </li>
            ))}
          </ul>
          {firm.keeper && <AskMember firm={firm} onKept={onKept} />}
        </>
      )}
      <ProblemNote error={accept.error ?? end.error ?? keeper.error ?? act.error} />
    </section>
  );
}

function AskMember({ firm, onKept }: { firm: Firm; onKept: (firms: Firm[]) => void }) {
  const [name, setName] = useState("");
  const [mail, setMail] = useState("");
  const [keeper, setKeeper] = useState(false);
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/firms/{firm}/members", {
          params: { path: { firm: firm.id } },
          body: { name, mail, keeper },
        }),
      ),
    onSuccess: (firms) => {
      onKept(firms);
      setName("");
      setMail("");
      setKeeper(false);
    },
  });
  return (
    <details>
      <summary>{say("Ask somebody to belong to it")}</summary>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send.mutate();
        }}
      >
        <TextInput label={say("Name")} value={name} onChange={(e) => setName(e.target.value)} />
        <MailField value={mail} onChange={setMail} />
        <Checkbox
          checked={keeper}
          onChange={(e) => setKeeper(e.currentTarget.checked)}
          label={say("A keeper: says who belongs to it")}
        />
        <ProblemNote error={send.error} />
        <button
          type="submit"
          className="jc-button plain small"
          disabled={!name.trim() || !mail.trim() || send.isPending}
        >
          {say("Ask")}
        </button>
      </form>
    </details>
  );
}
