// The case on the desk: looked at, changed by one move after the other, told when somebody else was faster.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { api, ask, type Schemas } from "../api/client";

export type CaseView = Schemas["CaseView"];

export function useCase(reference: string) {
  const queries = useQueryClient();
  const key = ["case", reference];
  const looked = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/cases/{reference}", { params: { path: { reference } } })),
    staleTime: 0,
  });
  const [trouble, setTrouble] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const line = useRef<Promise<unknown>>(Promise.resolve());

  /** One move; `seen` is taken when its turn comes, so that quick keys follow each other in order. */
  const move = useCallback(
    (work: (seen: number) => Promise<CaseView>): Promise<CaseView | null> => {
      setBusy(true);
      const turn = line.current.then(async () => {
        const now = queries.getQueryData<CaseView>(["case", reference]);
        try {
          const view = await work(now?.seen ?? 0);
          queries.setQueryData(["case", reference], view);
          queries.invalidateQueries({ queryKey: ["tray"] });
          setTrouble(null);
          return view;
        } catch (error) {
          setTrouble(error);
          return null;
        } finally {
          setBusy(false);
        }
      });
      line.current = turn;
      return turn;
    },
    [queries, reference],
  );

  const again = useCallback(() => {
    setTrouble(null);
    return queries.invalidateQueries({ queryKey: ["case", reference] });
  }, [queries, reference]);

  return { looked, view: looked.data, move, trouble, again, busy };
}

export type OnDesk = ReturnType<typeof useCase>;
export const path = (reference: string) => ({ path: { reference } });
