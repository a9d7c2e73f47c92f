// How a person is reached: a number for text messages, known by a code, and by which way each kind of news comes.
import { Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { CodeField } from "../signin/Fields";

const KEY = ["contact"];
const WAYS: Record<string, string> = {
  mail: say("by mail"),
  text: say("by text message"),
  both: say("by mail and text message"),
};

export function Contact() {
  const queries = useQueryClient();
  const session = useSession();
  const told = useQuery({ queryKey: KEY, queryFn: () => ask(api.GET("/api/session/contact")) });
  const keep = (contact: Schemas["Contact"]) => queries.setQueryData(KEY, contact);
  const forget = useMutation({ mutationFn: () => ask(api.DELETE("/api/session/number")), onSuccess: keep });
  const own = told.data;
  if (!own) return null;
  return (
    <section className="passwords" aria-label={say("Text messages and news")}>
      <h2>{say("Text messages and news")}</h2>
      {own.number ? (
        <p>
          {say("Text messages go to {{number}}.", { number: own.number })}{" "}
          <button type="button" className="jc-link" disabled={forget.isPending} onClick={() => forget.mutate()}>
            {say("forget this number")}
          </button>
        </p>
      ) : (
        <p className="second">{say("With a number you can have news by text message, and a code when you sign in.")}</p>
      )}
      {!own.number && <OwnNumber asked={own.asked} onKept={keep} demo={session.data?.demo ?? false} />}
      {own.number && <Chosen own={own} onKept={keep} news={session.data?.may?.moves === "applicant"} />}
      <ProblemNote error={forget.error} />
    </section>
  );
}

/** A number is told, a code goes to it, and it is kept once the code was typed. */
function OwnNumber({
  asked,
  onKept,
  demo,
}: {
  asked: string;
  onKept: (contact: Schemas["Contact"]) => void;
  demo: boolean;
}) {
  const [number, setNumber] = useState("");
  const [code, setCode] = useState("");
  const send = useMutation({
    mutationFn: (to: string) => ask(api.POST("/api/session/number", { body: { number: to } })),
    onSuccess: onKept,
  });
  const confirm = useMutation({
    mutationFn: () => ask(api.POST("/api/session/number/confirmation", { body: { code } })),
    onSuccess: onKept,
  });
  return (
    <>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          confirm.reset();
          send.mutate(number);
        }}
      >
        <TextInput
          label={say("Number for text messages")}
          autoComplete="tel"
          value={number}
          onChange={(e) => setNumber(e.target.value)}
        />
        <ProblemNote error={send.error} />
        <button type="submit" className="jc-button plain" disabled={number.trim() === "" || send.isPending}>
          {asked ? say("Send a new code") : say("Send me a code")}
        </button>
      </form>
      {asked && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            confirm.mutate();
          }}
        >
          <p role="status">
            {say("A code went to {{number}}. It works for 30 minutes.", { number: asked })}{" "}
            {demo && <small>{say("In the demo, text messages lie in the folder text-messages of the office.")}</small>}
          </p>
          <CodeField value={code} onChange={setCode} />
          <ProblemNote error={confirm.error} />
          <button type="submit" className="jc-button" disabled={code.trim().length < 6 || confirm.isPending}>
            {say("Confirm")}
          </button>
        </form>
      )}
    </>
  );
}

/** What was chosen: each change is kept at once. */
function Chosen({
  own,
  onKept,
  news,
}: {
  own: Schemas["Contact"];
  onKept: (contact: Schemas["Contact"]) => void;
  news: boolean;
}) {
  const choose = useMutation({
    mutationFn: (body: Schemas["KeepContact"]) => ask(api.PUT("/api/session/contact", { body })),
    onSuccess: onKept,
  });
  // what was pressed stands there at once, also while it is on its way
  const shown = choose.isPending ? choose.variables : null;
  const chosen = Object.fromEntries(own.news.map((n) => [n.news, n.way]));
  return (
    <>
      <Checkbox
        checked={shown?.code_by_text ?? own.code_by_text}
        label={say("Ask for a code by text message when I sign in")}
        onChange={(e) => choose.mutate({ news: chosen, code_by_text: e.currentTarget.checked })}
      />
      {news &&
        own.news.map((n) => (
          <NativeSelect
            key={n.news}
            label={n.title}
            value={shown?.news[n.news] ?? n.way}
            data={n.ways.map((way) => ({ value: way, label: WAYS[way] ?? way }))}
            onChange={(e) =>
              choose.mutate({ news: { ...chosen, [n.news]: e.currentTarget.value }, code_by_text: own.code_by_text })
            }
          />
        ))}
      <ProblemNote error={choose.error} />
      {choose.isSuccess && <p role="status">{say("Kept.")}</p>}
    </>
  );
}
