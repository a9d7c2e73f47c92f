// Beside a filing that the office records: for whom, and the way back to the counter.
import { useMutation } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export function CounterHere({ owner, id }: { owner: string; id: string }) {
  const navigate = useNavigate();
  const discard = useMutation({
    mutationFn: () => ask(api.DELETE("/api/counter/filings/{draft}", { params: { path: { draft: id } } })),
    onSuccess: () => navigate("/counter"),
  });
  return (
    <div className="filing-invited">
      <p>{say("You record this for {{owner}}, whose case it will be.", { owner })}</p>
      <p>
        <Link to={`/filing/${id}/pile`}>{say("Sort what came")}</Link>
        {" · "}
        <Link to="/counter">{say("Back to the counter")}</Link>
      </p>
      <ProblemNote error={discard.error} />
      <AskFirst
        question={say("Throw away what was recorded here?")}
        yes={say("Throw it away")}
        onYes={() => discard.mutate()}
        className="jc-link quiet"
      >
        {say("Throw it away")}
      </AskFirst>
    </div>
  );
}
