// A filing that the office prepared in the place of a case of another kind: what agreeing means.
import { Link } from "react-router";
import { say } from "../shared/text";

export function TurnsHere({ turns, base }: { turns: string; base: string }) {
  if (!turns) return null;
  return (
    <p className="filing-turns" role="note">
      {say(
        "The office proposes that {{case}} becomes this. Look at it, sort its files, sign and file it: then {{case}} ends, nothing of what you paid is kept, and the day on which you filed stays.",
        { case: turns },
      )}{" "}
      <Link to={`${base}/pile`}>{say("Sort its files")}</Link> ·{" "}
      <Link to={`/cases/${turns}`}>{say("To {{case}}", { case: turns })}</Link>
    </p>
  );
}
