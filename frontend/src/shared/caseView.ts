// Looking at a case: the one query for it, wherever it is shown.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { problemOf, type Schemas } from "../api/client";
import { afterChange, type CaseView, caseKey, fetchCase, notOlder, type Seen, seenAt } from "../api/views";

/** The case as the person who is signed in may see it; `every` is how often it is looked at again, in milliseconds. */
export function useCaseView(reference: string, every?: number) {
  const queries = useQueryClient();
  return useQuery({
    queryKey: caseKey(reference),
    queryFn: () =>
      notOlder(
        caseKey(reference),
        () => fetchCase(reference),
        () => queries.getQueryData<CaseView>(caseKey(reference)),
      ),
    staleTime: 0,
    refetchInterval: every,
  });
}

/** The case after a change, and the numbers of the entries that other people made in the meantime. */
export interface Changed {
  view: CaseView;
  meanwhile: readonly number[];
}

/** The entries that were made in this window, by case: nobody has to be told of them. */
const OWN = new Map<string, Set<number>>();
export const isOwn = (reference: string, no: number) => !!OWN.get(reference)?.has(no);

/** Change a case over the revision that is on the screen; the view follows. A conflict fetches the case anew before it is thrown. */
export function useChangeCase(reference: string) {
  const queries = useQueryClient();
  return useCallback(
    async (work: (seen: Seen) => Promise<Schemas["CaseChanged"]>): Promise<Changed> => {
      const before = queries.getQueryData<CaseView>(caseKey(reference));
      try {
        const reply = await work(seenAt(before?.revision ?? 0));
        const view = (await afterChange(before, reply)) ?? (await fetchCase(reference));
        const meanwhile = reply.meanwhile ?? [];
        const own = OWN.get(reference) ?? new Set<number>();
        for (let no = (before?.revision ?? view.revision) + 1; no <= view.revision; no++)
          if (!meanwhile.includes(no)) own.add(no);
        OWN.set(reference, own);
        queries.setQueryData(caseKey(reference), view);
        return { view, meanwhile };
      } catch (error) {
        if (problemOf(error).status === 412) await queries.refetchQueries({ queryKey: caseKey(reference) });
        throw error;
      }
    },
    [queries, reference],
  );
}
