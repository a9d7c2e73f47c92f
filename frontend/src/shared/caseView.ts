// Looking at a case: the one query for it, wherever it is shown.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";

/** The case as the person who is signed in may see it; `every` is how often it is looked at again, in milliseconds. */
export function useCaseView(reference: string, every?: number) {
  return useQuery({
    queryKey: ["case", reference],
    queryFn: () => ask(api.GET("/api/cases/{reference}", { params: { path: { reference } } })),
    staleTime: 0,
    refetchInterval: every,
  });
}
