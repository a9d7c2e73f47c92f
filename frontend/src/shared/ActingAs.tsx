// Going on as a firm to which one belongs, and as oneself again.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { useSession } from "./session";
import { say } from "./text";
import "./frame.css";

/** Go on as a firm, or (nothing named) as oneself: everything on every page is then another's. */
export function useActing() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (firm: string) => ask(api.PUT("/api/session/acting", { body: { firm } })),
    onSuccess: () => {
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
      return queries.invalidateQueries();
    },
  });
}

/** In the head of every page: as which firm one goes on, and the way back. */
export function ActingAs() {
  const session = useSession();
  const act = useActing();
  if (!session.data?.acts_as) return null;
  return (
    <span className="firm-acting">
      {say("for {{firm}}", { firm: session.data.acts_as })}{" "}
      <button type="button" className="jc-leave" disabled={act.isPending} onClick={() => act.mutate("")}>
        {say("As myself")}
      </button>
    </span>
  );
}
