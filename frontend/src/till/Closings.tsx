// Days that were closed, with their tables, and files of refunds for the bank.
import { useDocumentTitle } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { useHeading } from "../shared/heading";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, day, exactly, sign } from "../shared/say";
import { say, things } from "../shared/text";
import "../people/people.css";

export function Closings() {
  const queries = useQueryClient();
  const till = useQuery({ queryKey: ["till"], queryFn: () => ask(api.GET("/api/till")) });
  const days = useQuery({ queryKey: ["closings"], queryFn: () => ask(api.GET("/api/till/days")) });
  const files = useQuery({ queryKey: ["payment-files"], queryFn: () => ask(api.GET("/api/till/files")) });
  useHeading(days.isSuccess);
  useDocumentTitle(say("Closings and files"));
  const currency = till.data?.currency ?? "EUR";
  const make = useMutation({
    mutationFn: () => ask(api.POST("/api/till/files", { body: { currency } })),
    onSuccess: () => {
      for (const key of ["till", "payment-files"]) queries.invalidateQueries({ queryKey: [key] });
    },
  });
  return (
    <main className="jc-page people">
      <h1 tabIndex={-1}>{say("Closings and files")}</h1>
      <p>
        <Link to="/till">{say("Back to the till")}</Link>
      </p>
      <ProblemNote error={days.error ?? files.error} />
      {days.isPending && <Skeleton lines={6} />}
      <section aria-labelledby="files">
        <h2 id="files">{say("Refunds for the bank")}</h2>
        <p className="second">
          {say(
            "Refunds that a lead approved and that go to an account are put into a file (pain.001). Give it to the bank; its statement tells when they left.",
          )}
        </p>
        {till.data?.to_send === 0 ? (
          <p>{say("No refund waits for a file.")}</p>
        ) : (
          <button
            type="button"
            className="jc-button"
            disabled={make.isPending || !till.data?.to_send}
            onClick={() => make.mutate()}
          >
            {say("Put {{refunds}} into a file", { refunds: things(till.data?.to_send ?? 0, "refund") })}
          </button>
        )}
        <ProblemNote error={make.error} />
        {make.data && make.data.without.length > 0 && (
          <p role="status">
            {say("Not in the file, since the account is no IBAN: {{accounts}}.", {
              accounts: make.data.without.join(", "),
            })}
          </p>
        )}
        {(files.data?.length ?? 0) > 0 && (
          <table>
            <thead>
              <tr>
                <th scope="col">{say("File")}</th>
                <th scope="col">{say("Made")}</th>
                <th scope="col">{say("By")}</th>
                <th scope="col" className="num">
                  {say("Refunds")}
                </th>
                <th scope="col" className="num">
                  {say("Amount")}
                </th>
              </tr>
            </thead>
            <tbody>
              {files.data?.map((file) => (
                <tr key={file.no}>
                  <td>
                    <a href={`/api/till/files/${file.no}`} download>
                      {say("file {{no}}", { no: file.no })}
                    </a>
                  </td>
                  <td>{exactly(file.at)}</td>
                  <td>{file.made_by}</td>
                  <td className="num">{file.count}</td>
                  <td className="mono num">
                    {sign(file.currency)} {amount(file.total)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section aria-labelledby="closings">
        <h2 id="closings">{say("Closed days")}</h2>
        {days.data?.length === 0 && <p>{say("No day was closed yet.")}</p>}
        {(days.data?.length ?? 0) > 0 && (
          <table>
            <thead>
              <tr>
                <th scope="col">{say("Closing")}</th>
                <th scope="col">{say("Day")}</th>
                <th scope="col">{say("Till")}</th>
                <th scope="col">{say("Receipts")}</th>
                <th scope="col" className="num">
                  {say("Taken")}
                </th>
                <th scope="col" className="num">
                  {say("In the drawer")}
                </th>
                <th scope="col" className="num">
                  {say("Difference")}
                </th>
                <th scope="col">{say("Closed by")}</th>
                <th scope="col">{say("As a table")}</th>
              </tr>
            </thead>
            <tbody>
              {days.data?.map((one) => (
                <tr key={one.id}>
                  <td className="mono">{one.number}</td>
                  <td>{day(one.day)}</td>
                  <td>{one.till}</td>
                  <td className="mono">
                    {one.totals.first_receipt
                      ? say("{{first}} to {{last}}", { first: one.totals.first_receipt, last: one.totals.last_receipt })
                      : say("none")}
                  </td>
                  <td className="mono num">{amount(one.totals.receipts)}</td>
                  <td className="mono num">{amount(one.counted)}</td>
                  <td className="mono num" title={one.because}>
                    {amount(one.difference)}
                    {one.because && <small> {one.because}</small>}
                  </td>
                  <td>{one.closed_by}</td>
                  <td>
                    <a href={`/api/till/days/${one.number}/closing.csv`} download>
                      {say("as CSV")}
                    </a>{" "}
                    <a href={`/api/till/days/${one.number}/closing.xlsx`} download>
                      {say("as XLSX")}
                    </a>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
    </main>
  );
}
