// The registers that the office looks into; a new state of one comes as CSV and is looked over before it is taken.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { ProblemNote } from "../shared/Notes";
import { exactly } from "../shared/say";
import { TableHead } from "../shared/TableHead";
import { say, things } from "../shared/text";

type Change = Schemas["RegisterChange"];

export function Registers({ registers }: { registers: Schemas["RegisterTold"][] }) {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [drawn, setDrawn] = useState(false); // what was brought is a map
  const look = useMutation({
    mutationFn: ({ name, chosen, isMap }: { name: string; chosen: File; isMap: boolean }) => {
      setFile(chosen);
      setDrawn(isMap);
      const body = inForm(chosen);
      const given = { params: { path: { name } }, body, bodySerializer: () => body };
      return ask(
        isMap
          ? api.POST("/api/office/registers/{name}/map/look", given)
          : api.POST("/api/office/registers/{name}/look", given),
      );
    },
  });
  const take = useMutation({
    mutationFn: (change: Change) => {
      const body = inForm(file as File, { sha256: change.sha256 });
      const given = { params: { path: { name: change.name } }, body, bodySerializer: () => body };
      return ask(
        drawn ? api.POST("/api/office/registers/{name}/map", given) : api.POST("/api/office/registers/{name}", given),
      );
    },
    onSuccess: () => {
      look.reset();
      queries.invalidateQueries({ queryKey: ["office"] });
    },
  });
  return (
    <section aria-label={say("Registers")}>
      <h2>{say("Registers")}</h2>
      <p className="second">
        {say(
          "A new state of a register comes as a CSV file in UTF-8, its map as GeoJSON. What it changes is shown before anything is taken.",
        )}
      </p>
      <table>
        <TableHead columns={[say("Register"), say("Rows"), say("As it is since")]} />
        <tbody>
          {registers.map((one) => (
            <tr key={one.name}>
              <td>
                {one.title} <span className="mono second">{one.name}</span>
              </td>
              <td>{one.answers ? one.rows : say("does not answer")}</td>
              <td>{one.since && exactly(one.since)}</td>
              <td>
                <ChooseFiles
                  name={say("A new state of {{title}}", { title: one.title })}
                  onFiles={(files) => {
                    take.reset();
                    if (files[0]) look.mutate({ name: one.name, chosen: files[0], isMap: false });
                  }}
                >
                  {say("bring a new state")}
                  <span className="jc-hidden">: {one.title}</span>
                </ChooseFiles>{" "}
                {one.takes_map && (
                  <ChooseFiles
                    name={say("A map of {{title}}", { title: one.title })}
                    onFiles={(files) => {
                      take.reset();
                      if (files[0]) look.mutate({ name: one.name, chosen: files[0], isMap: true });
                    }}
                  >
                    {one.map ? say("bring a new map") : say("bring a map")}
                    <span className="jc-hidden">: {one.title}</span>
                  </ChooseFiles>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <ProblemNote error={look.error ?? take.error} />
      {take.data && (
        <p className="moss" role="status">
          {say("Taken: {{rows}} now.", { rows: things(take.data.rows, drawn ? "plot" : "row") })}
        </p>
      )}
      {look.data && (
        <WhatChanges change={look.data} drawn={drawn} busy={take.isPending} onTake={take.mutate} onLeave={look.reset} />
      )}
    </section>
  );
}

function WhatChanges(of: {
  change: Change;
  drawn: boolean;
  busy: boolean;
  onTake: (change: Change) => void;
  onLeave: () => void;
}) {
  const { change } = of;
  return (
    <div className="office-change" role="status">
      <h3>{say("What it would change in “{{name}}”", { name: change.name })}</h3>
      <p>
        {say("{{rows}} in the file: {{came}} new, {{gone}} gone, {{differ}} changed.", {
          rows: things(change.rows, of.drawn ? "plot" : "row"),
          came: change.came,
          gone: change.gone,
          differ: change.differ,
        })}
      </p>
      <Some title={say("New")} rows={change.some_came} of={change.came} />
      <Some title={say("Gone")} rows={change.some_gone} of={change.gone} />
      <Some
        title={say("Changed")}
        rows={change.some_differ.map((row) => `${row.key}: ${row.differs.join("; ")}`)}
        of={change.differ}
      />
      {change.lost.length > 0 ? (
        <p className="rose">
          {say("The rules need columns that are missing: {{columns}}.", { columns: change.lost.join(", ") })}
        </p>
      ) : (
        <button type="button" className="jc-button" disabled={of.busy} onClick={() => of.onTake(change)}>
          {say("Take this state")}
        </button>
      )}{" "}
      <button type="button" className="jc-link" onClick={of.onLeave}>
        {say("leave it as it is")}
      </button>
    </div>
  );
}

function Some({ title, rows, of }: { title: string; rows: string[]; of: number }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h4>{title}</h4>
      <ul>
        {rows.map((row) => (
          <li key={row}>{row}</li>
        ))}
        {of > rows.length && <li className="second">{say("And {{more}} more.", { more: of - rows.length })}</li>}
      </ul>
    </>
  );
}

/** A file and what goes with it, as the server takes them. */
export function inForm(file: File, also: Record<string, string> = {}): never {
  const form = new FormData();
  form.append("file", file, file.name);
  for (const [name, value] of Object.entries(also)) form.append(name, value);
  return form as never;
}
