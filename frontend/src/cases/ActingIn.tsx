// The filings and cases of those for whom one acts by a mandate.
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export function ActingIn() {
  const acting = useQuery({ queryKey: ["acting-in"], queryFn: () => ask(api.GET("/api/acting-in")) });
  if (!acting.data?.length) return <ProblemNote error={acting.error} />;
  return (
    <section aria-label={say("You act for others")}>
      <h2>
        {say("You act for others")} <span>{acting.data.length}</span>
      </h2>
      {acting.data.map((one) => (
        <Link
          key={one.draft || one.reference}
          to={one.draft ? `/filing/${one.draft}` : `/cases/${one.reference}`}
          className="cases-row"
        >
          <span className="cases-what">
            <b>{one.title || one.kind_title}</b>
            <small>{one.next || one.kind_title}</small>
          </span>
          <span className="mono">{one.reference}</span>
          <span className="second">{say("for {{owner}}", { owner: one.owner })}</span>
          <span className="cases-left">{one.draft && <small>{say("being prepared")}</small>}</span>
        </Link>
      ))}
    </section>
  );
}
