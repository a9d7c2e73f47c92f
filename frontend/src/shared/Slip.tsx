// The slip: the price as a till slip with a torn edge; every line shows its working on hover and by keyboard.
import { Tooltip } from "@mantine/core";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { amount } from "./say";

type Line = Schemas["Line"];

function shown(line: Line): string {
  if (line.amount !== null) return amount(line.amount);
  const low = amount(line.low);
  if (line.possible.length === 2) return `${low} or ${amount(line.high)}`;
  if (line.high === null) return line.low === "0.00" ? "open" : `from ${low}`;
  return `${low} to ${amount(line.high)}`;
}

const AFTER: Record<string, string> = { "after the check": ", after the check", "at issue": ", at issue" };

export function Slip({
  fees,
  linkTo,
  filed,
  account,
}: {
  fees: Schemas["FeeSheet"];
  linkTo: (place: string) => [string, string] | null;
  filed?: boolean;
  account?: Schemas["Account"];
}) {
  const now = fees.lines.filter((l) => l.stage === "at filing" && l.state !== "not asked");
  const later = fees.lines.filter((l) => l.stage !== "at filing" && l.state !== "not asked");
  const total = fees.totals.find((t) => t.stage === "at filing");
  return (
    <div className="jc-slip">
      <ul>
        {now.map((line) => (
          <SlipLine key={line.id} line={line} linkTo={linkTo} />
        ))}
      </ul>
      {total && (
        <p className="jc-slip-total">
          <b>{filed ? "Due at filing" : "To pay when you file"}</b>
          <b className="mono">
            {fees.currency === "EUR" ? "€" : fees.currency}{" "}
            {total.amount !== null
              ? amount(total.amount)
              : total.high !== null
                ? `${amount(total.low)} to ${amount(total.high)}`
                : `from ${amount(total.low)}`}
          </b>
        </p>
      )}
      {account && (
        <ul className="jc-slip-account">
          <li>
            <span className="second">paid</span> <span className="mono second">{amount(account.paid as string)}</span>
          </li>
          {Number(account.open) > 0 && (
            <li className="madder">
              <b>Still to pay</b> <b className="mono">€ {amount(account.open as string)}</b>
            </li>
          )}
          {Number(account.over) > 0 && (
            <li>
              <b>Comes back on acceptance</b> <b className="mono">€ {amount(account.over as string)}</b>
            </li>
          )}
        </ul>
      )}
      <ul className="jc-slip-later">
        {later.map((line) => (
          <SlipLine key={line.id} line={line} linkTo={linkTo} />
        ))}
      </ul>
    </div>
  );
}

function SlipLine({ line, linkTo }: { line: Line; linkTo: (place: string) => [string, string] | null }) {
  const links = line.depends_on.map(linkTo).filter((x): x is [string, string] => x !== null);
  return (
    <li>
      <Tooltip
        label={`${line.working}. Article ${line.article}`}
        multiline
        maw={320}
        withArrow
        events={{ hover: true, focus: true, touch: true }}
      >
        <span className="jc-slip-line" tabIndex={0}>
          <span>
            {line.title}
            {AFTER[line.stage] ?? ""}
            {line.state === "waived" && " (waived)"}
          </span>
          <span className="mono">{shown(line)}</span>
        </span>
      </Tooltip>
      {line.notes.length > 0 && <small>{line.notes.join("; ")}</small>}
      {line.state === "open" && links.length > 0 && (
        <small>
          depends on{" "}
          {links.map(([to, label], n) => (
            <span key={to}>
              {n > 0 && " and "}
              <Link to={to}>{label}</Link>
            </span>
          ))}
        </small>
      )}
    </li>
  );
}
