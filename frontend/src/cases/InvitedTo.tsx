// The filings and cases of others to which one was invited.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { INVITED } from "../filing/invited";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export function InvitedTo() {
  const invited = useQuery({ queryKey: INVITED, queryFn: () => ask(api.GET("/api/invited")) });
  if (!invited.data?.length) return <ProblemNote error={invited.error} />;
  return (
    <section aria-label={say("You were invited")}>
      <h2>
        {say("You were invited")} <span>{invited.data.length}</span>
      </h2>
      {invited.data.map((one) => (
        <Link key={one.id} to={one.draft ? `/filing/${one.draft}` : `/cases/${one.reference}`} className="cases-row">
          <span className="cases-what">
            <b>{one.title || one.kind_title}</b>
            <small>{say("You may {{rights}}.", { rights: one.said })}</small>
          </span>
          <span className="mono">{one.reference}</span>
          <span className="second">{say("of {{owner}}", { owner: one.owner })}</span>
          <span className="cases-left">{one.draft && <small>{say("being prepared")}</small>}</span>
        </Link>
      ))}
    </section>
  );
}
