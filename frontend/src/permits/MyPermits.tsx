// Permits that were transferred to oneself: those that are offered, to be accepted or declined, and those that one holds.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

const MINE = ["my-permits"];

export function MyPermits() {
  const queries = useQueryClient();
  const go = useNavigate();
  const mine = useQuery({ queryKey: MINE, queryFn: () => ask(api.GET("/api/my-permits")) });
  const at = (reference: string) => ({ params: { path: { reference } } });
  const again = () => queries.invalidateQueries({ queryKey: MINE });
  const accept = useMutation({
    mutationFn: (reference: string) => ask(api.POST("/api/cases/{reference}/permit/offer", at(reference))),
    onSuccess: (_, reference) => go(`/permits/${reference}`),
    onSettled: again,
  });
  const decline = useMutation({
    mutationFn: (reference: string) => ask(api.DELETE("/api/cases/{reference}/permit/offer", at(reference))),
    onSettled: again,
  });
  const { offered = [], held = [] } = mine.data ?? {};
  return (
    <>
      <ProblemNote error={mine.error ?? accept.error ?? decline.error} />
      {offered.length > 0 && (
        <section aria-label={say("Transferred to you")}>
          <h2>
            {say("Transferred to you")} <span>{offered.length}</span>
          </h2>
          {offered.map((one) => (
            <div key={one.reference} className="cases-row urgent">
              <span className="cases-what">
                <b>{one.title}</b>
                <small>
                  {say("{{kind}} {{reference}}: yours once you accept it", {
                    kind: one.kind_title,
                    reference: one.reference,
                  })}
                </small>
              </span>
              <button
                type="button"
                className="jc-button small"
                disabled={accept.isPending}
                onClick={() => accept.mutate(one.reference)}
              >
                {say("Accept it")}
              </button>
              <button
                type="button"
                className="jc-link"
                disabled={decline.isPending}
                onClick={() => decline.mutate(one.reference)}
              >
                {say("Decline")}
              </button>
              <span />
            </div>
          ))}
        </section>
      )}
      {held.length > 0 && (
        <section aria-label={say("You hold these")}>
          <h2>
            {say("You hold these")} <span>{held.length}</span>
          </h2>
          {held.map((one) => (
            <Link key={one.reference} to={`/permits/${one.reference}`} className="cases-row">
              <span className="cases-what">
                <b>{one.title}</b>
                <small>{one.kind_title}</small>
              </span>
              <span className="mono">{one.reference}</span>
              <span />
              <span />
            </Link>
          ))}
        </section>
      )}
    </>
  );
}
