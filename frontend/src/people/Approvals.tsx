// For leads, first on the page: what waits for their word. Fees set by hand, refunds, days at the till that differ.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { say, things } from "../shared/text";

export function Approvals() {
  const tray = useQuery({
    queryKey: ["tray", "approvals"],
    queryFn: () => ask(api.GET("/api/tray", { params: { query: { whose: "everyone's" } } })),
  });
  const till = useQuery({ queryKey: ["till"], queryFn: () => ask(api.GET("/api/till")) });
  const fees = tray.data?.words.filter((word) => word.what === "second person") ?? [];
  const refunds = till.data?.waiting_refunds ?? 0;
  const days = till.data?.days.filter((day) => day.waits_for_second) ?? [];
  const none = fees.length + refunds + days.length === 0;
  return (
    <section aria-labelledby="approvals">
      <h2 id="approvals">{say("Waits for your word")}</h2>
      {tray.isSuccess && till.isSuccess && none && (
        <p className="second">{say("Nothing waits for a second person.")}</p>
      )}
      <ul className="print-queue">
        {fees.map((word) => (
          <li key={`${word.reference} ${word.text}`}>
            <Link to={`/desk/${word.reference}`} className="mono">
              {word.reference}
            </Link>{" "}
            {say("a fee set by hand: {{text}}", { text: word.text })}
          </li>
        ))}
        {refunds > 0 && (
          <li>
            <Link to="/money">{say("{{refunds}} to approve", { refunds: things(refunds, "refund") })}</Link>
          </li>
        )}
        {days.map((day) => (
          <li key={day.id}>
            <Link to="/till">{say("{{till}}: a drawer that differs", { till: day.till })}</Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
