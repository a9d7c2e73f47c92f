// The slip: the price as a till slip with a torn edge; every line shows its working on hover and by keyboard.
import { Tooltip } from "@mantine/core";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Debts, inParts } from "./Debts";
import { amount, sign } from "./say";
import { say, things } from "./text";
import "./slip.css";

type Line = Schemas["Line"];

function shown(line: Line): string {
  if (line.amount !== null) return amount(line.amount);
  const low = amount(line.low);
  if (line.high === line.low) return low;
  if (line.possible.length === 2) return say("{{low}} or {{high}}", { low, high: amount(line.high) });
  if (line.high === null) return line.low === "0.00" ? say("open") : say("from {{low}}", { low });
  return say("{{low}} to {{high}}", { low, high: amount(line.high) });
}

const AFTER: Record<string, string> = { "after the check": say(", after the check"), "at issue": say(", at issue") };

export function Slip({
  fees,
  linkTo,
  filed,
  account,
  debts = account?.debts,
}: {
  fees: Schemas["FeeSheet"];
  linkTo: (place: string) => [string, string] | null;
  filed?: boolean;
  account?: Schemas["Account"];
  debts?: Schemas["Debt"][];
}) {
  const now = fees.lines.filter((l) => l.stage === "at filing" && l.state !== "not asked");
  const total = fees.totals.find((t) => t.stage === "at filing");
  // what is said of several lines alike is said once, beneath them
  const said = now.flatMap((l) => l.notes);
  const alike = [...new Set(said)].filter((note) => said.filter((n) => n === note).length > 1);
  return (
    <div className="jc-slip">
      {now.length > 0 && (
        <ul>
          {now.map((line, n) => (
            <SlipLine key={line.id} line={line} linkTo={linkTo} alike={alike} next={now[n + 1]} />
          ))}
        </ul>
      )}
      {alike.map((note) => (
        <p key={note} className="jc-slip-alike">
          <small>
            <sup>*</sup> {note}
          </small>
        </p>
      ))}
      {total ? (
        <Total
          title={filed ? say("Due at filing") : say("To pay when you file")}
          total={total}
          currency={fees.currency}
        />
      ) : (
        <p className="jc-slip-total">
          <b>{say("Nothing is due when you file")}</b>
        </p>
      )}
      {account && (
        <ul className="jc-slip-account">
          {Number(account.paid) > 0 && (
            <li>
              <span className="second">{say("paid")}</span>{" "}
              <span className="mono second">{amount(account.paid as string)}</span>
            </li>
          )}
          {Number(account.prepaid) > 0 && (
            <li>
              <span className="second">{say("of it prepaid for the issue")}</span>{" "}
              <span className="mono second">{amount(account.prepaid as string)}</span>
            </li>
          )}
          {Number(account.open) > 0 && (
            <li className="madder">
              <b>{say("Still to pay")}</b>{" "}
              <b className="mono">
                {sign(fees.currency)} {amount(account.open as string)}
              </b>
            </li>
          )}
          {filed && Number(account.paid) > 0 && Number(account.open) === 0 && (
            <li>
              <b>{say("Nothing is to be paid now")}</b>
            </li>
          )}
          {account.to_file !== null && Number(account.paid) > 0 && (
            <li>
              <b>{say("Still to pay when you file again")}</b>{" "}
              <b className="mono">
                {sign(fees.currency)} {amount(account.to_file as string)}
              </b>
            </li>
          )}
          {Number(account.over) > 0 && (
            <li>
              <b>{say("Comes back on acceptance")}</b>{" "}
              <b className="mono">
                {sign(fees.currency)} {amount(account.over as string)}
              </b>
            </li>
          )}
        </ul>
      )}
      {Object.keys(AFTER).map((stage) => {
        const lines = fees.lines.filter((l) => l.stage === stage && l.state !== "not asked");
        const sum = fees.totals.find((t) => t.stage === stage);
        return (
          <div key={stage} className="jc-slip-later">
            <ul>
              {lines.map((line, n) => (
                <SlipLine key={line.id} line={line} linkTo={linkTo} alone={lines.length === 1} next={lines[n + 1]} />
              ))}
            </ul>
            {lines.length > 1 && sum && (
              <Total
                title={stage === "at issue" ? say("At issue") : say("After the check")}
                total={sum}
                currency={fees.currency}
              />
            )}
          </div>
        );
      })}
      {debts && inParts(debts) && (
        <>
          <h3 className="jc-slip-owed">{say("How it is owed")}</h3>
          <Debts debts={debts.filter((d) => d.article)} />
        </>
      )}
    </div>
  );
}

function Total({ title, total, currency }: { title: string; total: Schemas["StageTotal"]; currency: string }) {
  // what is not known is never told as nothing
  const range =
    total.high !== null
      ? say("{{low}} to {{high}}", { low: amount(total.low), high: amount(total.high) })
      : Number(total.low) > 0
        ? say("from {{low}}", { low: amount(total.low) })
        : say("open");
  return (
    <p className="jc-slip-total">
      <b>{title}</b>
      <b className="mono">
        {total.amount !== null || Number(total.low) > 0 || total.high !== null ? `${sign(currency)} ` : ""}
        {total.amount !== null ? amount(total.amount) : range}
      </b>
    </p>
  );
}

function SlipLine({
  line,
  linkTo,
  alone,
  alike = [],
  next,
}: {
  line: Line;
  linkTo: (place: string) => [string, string] | null;
  alone?: boolean;
  alike?: string[];
  next?: Line;
}) {
  // lines that hang on the same questions say so once, beneath the last of them
  const saidBelow = next?.state === "open" && String(next.depends_on) === String(line.depends_on);
  const own = line.notes.filter((note) => !alike.includes(note));
  const links = line.depends_on.map(linkTo).filter((x): x is [string, string] => x !== null);
  return (
    <li>
      <Tooltip
        label={say("{{working}}. Article {{article}}", { working: line.working, article: line.article })}
        multiline
        maw={320}
        withArrow
        events={{ hover: true, focus: true, touch: true }}
      >
        <span className="jc-slip-line" tabIndex={0}>
          <span>
            {line.title}
            {alone && AFTER[line.stage]}
            {line.told_only && say(" (in the price)")}
            {line.state === "waived" && say(" (waived)")}
            {own.length < line.notes.length && <sup>*</sup>}
          </span>
          <span className="mono">{shown(line)}</span>
        </span>
      </Tooltip>
      {own.length > 0 && <small>{own.join("; ")}</small>}
      {line.state === "open" && links.length > 0 && !saidBelow && (
        <small>
          {links.length === 1
            ? say("depends on")
            : say("{{questions}} open, first:", { questions: things(links.length, "question") })}{" "}
          <Link to={links[0]?.[0] ?? ""}>{links[0]?.[1]}</Link>
        </small>
      )}
    </li>
  );
}
