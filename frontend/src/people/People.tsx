// The people of the office, for the lead: who works here, who is new, who leaves.

import { NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { useSession } from "../shared/session";
import { TableHead } from "../shared/TableHead";
import { say } from "../shared/text";
import "./people.css";

export function People() {
  const session = useSession();
  const queries = useQueryClient();
  const people = useQuery({ queryKey: ["people"], queryFn: () => ask(api.GET("/api/people")) });
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: () => ask(api.GET("/api/kinds")) });
  const [name, setName] = useState("");
  const [mail, setMail] = useState("");
  const [role, setRole] = useState("officer");
  const invite = useMutation({
    mutationFn: () => ask(api.POST("/api/people", { body: { name, mail, role, kinds: [] } })),
    onSuccess: () => {
      setName("");
      setMail("");
      queries.invalidateQueries({ queryKey: ["people"] });
    },
  });
  const leave = useMutation({
    mutationFn: (person: string) => ask(api.DELETE("/api/people/{person}", { params: { path: { person } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["people"] }),
  });
  return (
    <main className="jc-page people">
      <h1>{say("People of the office")}</h1>
      <ProblemNote error={people.error ?? leave.error} />
      {people.isPending && <Skeleton lines={5} />}
      {people.data && (
        <table>
          <TableHead columns={[say("Name"), say("Role"), say("Mail"), say("Sees"), say("Account")]} />
          <tbody>
            {people.data.map((p) => (
              <tr key={p.id} className={p.left ? "second" : ""}>
                <td>{p.name}</td>
                <td>{p.role}</td>
                <td>{p.mail}</td>
                <td>
                  {p.left ? (
                    kindsInWords(p.kinds)
                  ) : (
                    <Limits person={p} kinds={(kinds.data ?? []).map((k) => ({ id: k.kind, title: k.title }))} />
                  )}
                </td>
                <td>{p.left ? say("has left") : p.ready ? say("in use") : say("no password yet")}</td>
                <td>
                  {!p.left && p.id !== session.data?.person?.id && (
                    <AskFirst
                      question={say("Close the account of {{name}}? What was done stays.", { name: p.name })}
                      yes={say("Close the account")}
                      onYes={() => leave.mutate(p.id)}
                      className="jc-link"
                    >
                      {say("leaves")}
                      <span className="jc-hidden">: {p.name}</span>
                    </AskFirst>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <h2>{say("Somebody new")}</h2>
      <p className="second">
        {say("A link to set the first password goes to the address. Applicants make their own account.")}
      </p>
      <form
        className="people-new"
        onSubmit={(e) => {
          e.preventDefault();
          invite.mutate();
        }}
      >
        <TextInput label={say("Name")} value={name} onChange={(e) => setName(e.target.value)} />
        <TextInput label={say("Mail address")} type="email" value={mail} onChange={(e) => setMail(e.target.value)} />
        <NativeSelect
          label={say("Role")}
          data={session.data?.staff_roles ?? []}
          value={role}
          onChange={(e) => setRole(e.target.value)}
        />
        <button type="submit" className="jc-button" disabled={!name || !mail || invite.isPending}>
          {say("Add to the office")}
        </button>
      </form>
      <ProblemNote error={invite.error} />
      {invite.isSuccess && (
        <p role="status">{say("{{name}} is added; the link is on its way.", { name: invite.data.name })}</p>
      )}
    </main>
  );
}

function kindsInWords(kinds: string[]): string {
  return kinds.length ? kinds.join(", ") : say("all kinds");
}

type Kind = { id: string; title: string };

/** Which kinds somebody sees: all, or the ticked ones. */
function Limits({ person, kinds }: { person: Schemas["StaffOut"]; kinds: Kind[] }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const limit = useMutation({
    mutationFn: (wanted: string[]) =>
      ask(api.PUT("/api/people/{person}/kinds", { params: { path: { person: person.id } }, body: { kinds: wanted } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["people"] }),
  });
  if (!open)
    return (
      <button type="button" className="jc-link" onClick={() => setOpen(true)}>
        {kindsInWords(person.kinds)}
        <span className="jc-hidden">: {person.name}</span>
      </button>
    );
  const turn = (id: string) =>
    limit.mutate(person.kinds.includes(id) ? person.kinds.filter((k) => k !== id) : [...person.kinds, id]);
  return (
    <fieldset className="people-kinds">
      <legend>{say("Only these; none ticked means all")}</legend>
      {kinds.map((k) => (
        <label key={k.id}>
          <input type="checkbox" checked={person.kinds.includes(k.id)} onChange={() => turn(k.id)} /> {k.title}
        </label>
      ))}
      <ProblemNote error={limit.error} />
      <button type="button" className="jc-link" onClick={() => setOpen(false)}>
        {say("done")}
      </button>
    </fieldset>
  );
}
