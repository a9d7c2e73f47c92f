// Another filing with the answers of this one; files, ticks and signature stay behind.
import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

export function BeginLike({
  name,
  first,
}: {
  name: string /** What has to be kept before. */;
  first?: () => Promise<unknown>;
}) {
  const navigate = useNavigate();
  const begin = useMutation({
    mutationFn: async () => {
      await first?.();
      return ask(api.POST("/api/drafts/like/{name}", { params: { path: { name } } }));
    },
    onSuccess: ({ id }) => navigate(`/filing/${id}`),
  });
  return (
    <>
      <button type="button" className="jc-link quiet" disabled={begin.isPending} onClick={() => begin.mutate()}>
        {say("Begin another one like this")}
      </button>
      <ProblemNote error={begin.error} />
    </>
  );
}
