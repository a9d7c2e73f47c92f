// Tokens by which one's own programs use the interface: each with a scope and an end, told once, taken back at any time.
import { Select, TextInput } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { exactly, since } from "../shared/say";
import { say } from "../shared/text";
import "./people.css";

type Scope = Schemas["Token"]["scope"];
const SCOPES: Record<Scope, string> = {
  look: say("Look: read what I may read"),
  work: say("Work: also do what I may do with cases"),
};

export function Tokens() {
  const queries = useQueryClient();
  const own = useQuery({ queryKey: ["tokens"], queryFn: () => ask(api.GET("/api/tokens")) });
  const [name, setName] = useState("");
  const [scope, setScope] = useState<Scope>("look");
  const [last, setLast] = useState("");
  const again = () => queries.invalidateQueries({ queryKey: ["tokens"] });
  const make = useMutation({
    mutationFn: () => ask(api.POST("/api/tokens", { body: { name, scope, last_day: last } })),
    onSuccess: () => {
      setName("");
      again();
    },
  });
  const end = useMutation({
    mutationFn: (token: string) => ask(api.DELETE("/api/tokens/{token}", { params: { path: { token } } })),
    onSuccess: () => {
      make.reset();
      again();
    },
  });
  return (
    <section className="tokens" aria-labelledby="tokens">
      <h2 id="tokens">{say("Access for programs")}</h2>
      <p className="second">
        {say(
          "A token lets a program of yours use this office in your name. It never touches your account, other people or the office itself, and ends on the day that you say.",
        )}
      </p>
      <ProblemNote error={own.error ?? make.error ?? end.error} />
      <form
        className="people-new"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate();
        }}
      >
        <TextInput
          label={say("What is it for?")}
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
          w={220}
        />
        <Select
          label={say("What may it do?")}
          data={Object.entries(SCOPES).map(([value, label]) => ({ value, label }))}
          value={scope}
          allowDeselect={false}
          onChange={(chosen) => setScope((chosen ?? "look") as Scope)}
          w={300}
        />
        <DatePickerInput
          label={say("Until and with")}
          value={last || null}
          onChange={(day) => setLast(day ? String(day) : "")}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          w={170}
        />
        <button type="submit" className="jc-button plain" disabled={!name.trim() || !last || make.isPending}>
          {say("Make a token")}
        </button>
      </form>
      {make.data && (
        <p role="status">
          {say("Copy this token now; it is not shown again:")} <code className="feed-link">{make.data.secret}</code>
        </p>
      )}
      <ul className="print-queue">
        {own.data?.map((token) => (
          <li key={token.id}>
            <b>{token.name}</b>, {SCOPES[token.scope]},{" "}
            <span className="second">
              {token.over
                ? say("over since {{at}}", { at: exactly(token.until) })
                : say("until {{at}}", { at: exactly(token.until) })}
              {token.used_at
                ? `, ${say("used {{when}}", { when: since(token.used_at) })}`
                : `, ${say("never used yet")}`}
            </span>{" "}
            <button type="button" className="jc-link" onClick={() => end.mutate(token.id)}>
              {say("take it back")}
              <span className="jc-hidden">: {token.name}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
