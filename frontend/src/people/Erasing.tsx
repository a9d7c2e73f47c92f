// What is past its time: put on the list by a lead, confirmed by somebody else, erased for good.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { day, exactly } from "../shared/say";
import { useSession } from "../shared/session";
import { TableHead } from "../shared/TableHead";
import { say } from "../shared/text";
import "./people.css";

export function Erasing() {
  const session = useSession();
  const queries = useQueryClient();
  const told = useQuery({ queryKey: ["erasing"], queryFn: () => ask(api.GET("/api/erasing")) });
  const again = () => queries.invalidateQueries({ queryKey: ["erasing"] });
  const list = useMutation({
    mutationFn: (body: Schemas["PutOnTheList"]) => ask(api.POST("/api/erasing", { body })),
    onSuccess: again,
  });
  const at = (erasure: number) => ({ params: { path: { erasure } } });
  const confirm = useMutation({
    mutationFn: (id: number) => ask(api.POST("/api/erasing/{erasure}/confirmation", at(id))),
    onSuccess: again,
  });
  const off = useMutation({
    mutationFn: (id: number) => ask(api.DELETE("/api/erasing/{erasure}", at(id))),
    onSuccess: again,
  });
  const lead = session.data?.may?.decides_fees;
  return (
    <main className="jc-page people">
      <h1>{say("Erasing")}</h1>
      <p className="second">
        {say(
          "A case that was kept as long as its rulebook says is put on the list by a lead and confirmed by somebody else. Its answers, files, letters, messages and names go for good; amounts, receipts and what everybody may know of a permit stay.",
        )}
      </p>
      <ProblemNote error={told.error ?? list.error ?? confirm.error ?? off.error} />
      {told.isPending && <Skeleton lines={5} />}
      {told.data && (
        <section aria-label={say("Waiting for a second person")}>
          <h2>{say("Waiting for a second person")}</h2>
          {told.data.waiting.length === 0 && <p className="second">{say("Nothing is on the list.")}</p>}
          {told.data.waiting.map((e) => (
            <p key={e.id}>
              <b className={e.what === "case" ? "mono" : ""}>{e.called}</b>{" "}
              {say("{{who}}, {{at}}: {{reason}}", { who: e.asked_by, at: exactly(e.asked_at), reason: e.reason })}{" "}
              {e.own ? (
                <span className="ochre">{say("Somebody else has to confirm it.")}</span>
              ) : (
                <AskFirst
                  question={say("Erase {{called}} for good? It cannot be brought back.", { called: e.called })}
                  yes={say("Erase it")}
                  onYes={() => confirm.mutate(e.id)}
                  className="jc-link"
                >
                  {say("confirm and erase")}
                  <span className="jc-hidden">: {e.called}</span>
                </AskFirst>
              )}{" "}
              <button type="button" className="jc-link" onClick={() => off.mutate(e.id)}>
                {say("take off the list")}
                <span className="jc-hidden">: {e.called}</span>
              </button>
            </p>
          ))}
        </section>
      )}
      {lead && told.data && (
        <section aria-label={say("Past its time")}>
          <h2>{say("Past its time")}</h2>
          {told.data.due.length === 0 && <p className="second">{say("No case is past its time.")}</p>}
          {told.data.due.length > 0 && <DueTable due={told.data.due} onList={(body) => list.mutate(body)} />}
        </section>
      )}
      {told.data && told.data.done.length > 0 && (
        <section aria-label={say("Erased lately")}>
          <h2>{say("Erased lately")}</h2>
          {told.data.done.map((e) => (
            <p key={e.id} className="second">
              <span className="mono">{e.called}</span> {e.done_at && exactly(e.done_at)}
            </p>
          ))}
        </section>
      )}
    </main>
  );
}

type DueProps = { due: Schemas["Due"][]; onList: (body: Schemas["PutOnTheList"]) => void };

function DueTable({ due, onList }: DueProps) {
  const [reason, setReason] = useState(say("Its time of keeping is over."));
  return (
    <>
      <label className="people-reason">
        {say("Why")} <input value={reason} maxLength={300} onChange={(e) => setReason(e.target.value)} />
      </label>
      <table>
        <TableHead columns={[say("Case"), say("What it was"), say("Kept until")]} />
        <tbody>
          {due.map((d) => (
            <tr key={d.reference}>
              <td className="mono">{d.reference}</td>
              <td>{d.title}</td>
              <td>{day(d.kept_until)}</td>
              <td>
                <button
                  type="button"
                  className="jc-link"
                  disabled={reason.trim().length < 3}
                  onClick={() => onList({ reference: d.reference, reason })}
                >
                  {say("put on the list")}
                  <span className="jc-hidden">: {d.reference}</span>
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
