// A long list by pages: the rows that came with the list, and the next ones when asked for.
import { useInfiniteQuery } from "@tanstack/react-query";
import { ProblemNote } from "./Notes";
import { say } from "./text";

export type Page<Row> = { count: number; rows: Row[]; after: string };

/** The rows of a list whose first page is there, those of the pages that were asked for, and the way to ask for the next. */
export function usePages<Row>(key: readonly unknown[], first: Page<Row>, next: (after: string) => Promise<Page<Row>>) {
  const more = useInfiniteQuery({
    // another first page is another list: what follows it is asked for anew
    queryKey: [...key, first.after],
    queryFn: ({ pageParam }) => next(pageParam),
    initialPageParam: first.after,
    getNextPageParam: (last: Page<Row>) => last.after || undefined,
    enabled: false,
  });
  const rows = [...first.rows, ...(more.data?.pages ?? []).flatMap((page) => page.rows)];
  const left = first.count - rows.length;
  const after = more.data ? more.hasNextPage : first.after !== "";
  const ask = () => (more.data ? more.fetchNextPage() : more.refetch());
  return { rows, left: after ? left : 0, ask, waits: more.isFetching, error: more.error };
}

/** The button under a list that has more rows than it shows. */
export function More({ pages }: { pages: Pick<ReturnType<typeof usePages>, "left" | "ask" | "waits" | "error"> }) {
  if (pages.left <= 0) return null;
  return (
    <>
      <ProblemNote error={pages.error} />
      <button type="button" className="jc-link jc-more" disabled={pages.waits} onClick={() => pages.ask()}>
        {say("{{left}} more", { left: pages.left })}
      </button>
    </>
  );
}
