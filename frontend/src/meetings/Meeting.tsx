// A meeting with its agenda: in order, with its papers, and what it comes to in each case.
import { TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Dialog, Yes } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day } from "../shared/say";
import { say, things } from "../shared/text";
import { Minutes } from "./Minutes";
import "../people/people.css";
import "./meetings.css";

type Item = Schemas["ItemView"];

export function Meeting() {
  const { meeting = "" } = useParams();
  const params = { path: { meeting } };
  const queries = useQueryClient();
  const told = useQuery({
    queryKey: ["meetings", meeting],
    queryFn: () => ask(api.GET("/api/meetings/{meeting}", { params })),
  });
  const changed = () => queries.invalidateQueries({ queryKey: ["meetings"] });
  const order = useMutation({
    mutationFn: (references: string[]) =>
      ask(api.PUT("/api/meetings/{meeting}/order", { params, body: { references } })),
    onSettled: changed,
  });
  const callOff = useMutation({
    mutationFn: (because: string) => ask(api.POST("/api/meetings/{meeting}/called-off", { params, body: { because } })),
    onSuccess: changed,
  });
  const view = told.data;
  if (!view)
    return (
      <main className="jc-page people">
        <h1>{say("Meeting")}</h1>
        <ProblemNote error={told.error} />
        {told.isPending && <Skeleton lines={6} />}
      </main>
    );
  const { line, items } = view;
  const move = (n: number, by: number) => {
    const references = items.map((item) => item.reference);
    const [moved] = references.splice(n, 1);
    references.splice(n + by, 0, moved as string);
    order.mutate(references);
  };
  return (
    <main className="jc-page people">
      <p className="second">
        <Link to="/meetings">{say("All meetings")}</Link>
      </p>
      <h1>{line.title}</h1>
      <p>
        <b>
          {day(line.day)}, {line.at}
        </b>
        , {line.place}
        {view.closes && !line.called_off && (
          <span className="second"> · {say("the agenda closes with {{day}}", { day: day(view.closes) })}</span>
        )}
      </p>
      {line.called_off && <p className="madder">{say("Called off: {{because}}", { because: line.called_off })}</p>}
      <p className="meetings-papers">
        <a href={`/api/meetings/${meeting}/agenda`} download>
          {line.minuted > 0 ? say("Minutes (PDF)") : say("Agenda (PDF)")}
        </a>
        {items.length > 0 && (
          <a href={`/api/meetings/${meeting}/papers`} download>
            {say("Agenda with all papers (PDF)")}
          </a>
        )}
        {view.may_call_off && <CallOff cases={items.length} onYes={(because) => callOff.mutate(because)} />}
      </p>
      <ProblemNote error={order.error ?? callOff.error} />
      {items.length === 0 && !line.called_off && <p>{say("No case is on the agenda yet.")}</p>}
      <ol className="meetings-agenda">
        {items.map((item, n) => (
          <li key={item.reference}>
            <Told item={item} />
            {view.may_order && items.length > 1 && (
              <p className="meetings-order">
                <button
                  type="button"
                  className="jc-link"
                  disabled={n === 0 || order.isPending}
                  onClick={() => move(n, -1)}
                >
                  {say("earlier")}
                  <span className="jc-hidden"> {item.reference}</span>
                </button>{" "}
                <button
                  type="button"
                  className="jc-link"
                  disabled={n === items.length - 1 || order.isPending}
                  onClick={() => move(n, 1)}
                >
                  {say("later")}
                  <span className="jc-hidden"> {item.reference}</span>
                </button>
              </p>
            )}
            <Result item={item} onDone={changed} />
          </li>
        ))}
      </ol>
    </main>
  );
}

function CallOff({ cases, onYes }: { cases: number; onYes: (because: string) => void }) {
  const [open, setOpen] = useState(false);
  const [because, setBecause] = useState("");
  return (
    <>
      <button type="button" className="jc-link" onClick={() => setOpen(true)}>
        {say("Call it off")}
      </button>
      <Dialog title={say("Call this meeting off?")} opened={open} onClose={() => setOpen(false)}>
        {cases > 0 && (
          <p>{say("{{cases}} on its agenda will wait for another one.", { cases: things(cases, "case") })}</p>
        )}
        <TextInput
          label={say("Why? Applicants read it.")}
          value={because}
          maxLength={400}
          onChange={(e) => setBecause(e.target.value)}
          data-autofocus
          mb="md"
        />
        <Yes elsewhere onYes={() => onYes(because)} onClose={() => setOpen(false)} disabled={because.trim().length < 3}>
          {say("Call it off")}
        </Yes>
      </Dialog>
    </>
  );
}

function Told({ item }: { item: Item }) {
  return (
    <>
      <Link to={`/desk/${item.reference}`}>
        <b>{item.title}</b> <span className="mono">{item.reference}</span>
      </Link>
      <p className="second">
        {item.kind} · {say("{{who}} applies", { who: item.applicant })}
        {item.reviewer && ` · ${say("{{who}} decides", { who: item.reviewer })}`}
      </p>
      {item.signed.map((words) => (
        <p key={words} className="second">
          {words}
        </p>
      ))}
    </>
  );
}

function Result({ item, onDone }: { item: Item; onDone: () => void }) {
  const [again, setAgain] = useState(false);
  if (item.may_minute && (again || !item.result))
    return (
      <Minutes
        item={item}
        onDone={() => {
          setAgain(false);
          onDone();
        }}
      />
    );
  return (
    <p>
      {item.result ? (
        <>
          <b className={item.result === "in favour" ? "moss" : item.result === "against" ? "madder" : "ochre"}>
            {item.says}
          </b>{" "}
          {item.words}{" "}
          {item.may_minute && (
            <button type="button" className="jc-link" onClick={() => setAgain(true)}>
              {say("put right")}
              <span className="jc-hidden"> {item.reference}</span>
            </button>
          )}
        </>
      ) : (
        <span className="second">{item.why_not}</span>
      )}
    </p>
  );
}
