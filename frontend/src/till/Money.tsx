// For the leads: what payment terminals told and could not be booked.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { amount, exactly, sign } from "../shared/say";
import { say } from "../shared/text";
import "../people/people.css";

export function Money() {
  const told = useQuery({ queryKey: ["not placed"], queryFn: () => ask(api.GET("/api/money/not-placed")) });
  return (
    <main className="jc-page people">
      <h1>{say("Money that is not placed")}</h1>
      <p className="second">
        {say(
          "A payment terminal told of this money, but it fits no order: another amount, paid twice, or never asked for. Nothing of it is booked in a case. Find out with the provider what it is, then book it on the case or let it go back.",
        )}
      </p>
      <ProblemNote error={told.error} />
      {told.isPending && <Skeleton lines={4} />}
      {told.data?.length === 0 && <p>{say("Everything that came is placed.")}</p>}
      {told.data && told.data.length > 0 && (
        <table>
          <thead>
            <tr>
              <th scope="col">{say("Told")}</th>
              <th scope="col">{say("Case")}</th>
              <th scope="col" className="num">
                {say("Amount")}
              </th>
              <th scope="col">{say("Why it does not fit")}</th>
              <th scope="col">{say("Order")}</th>
            </tr>
          </thead>
          <tbody>
            {told.data.map((n) => (
              <tr key={`${n.order} ${n.at}`}>
                <td>{exactly(n.at)}</td>
                <td className="mono">
                  {n.reference ? <Link to={`/desk/${n.reference}`}>{n.reference}</Link> : say("none")}
                </td>
                <td className="mono num">
                  {sign(n.currency)} {amount(n.amount)}
                </td>
                <td>{n.why}</td>
                <td className="mono">{n.order.slice(0, 12)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
