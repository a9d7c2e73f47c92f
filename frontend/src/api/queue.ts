// One change after the other, so that each starts from the state that the last one left.
import { useMutation } from "@tanstack/react-query";
import { useCallback } from "react";

/** A queue by name: what is put into it begins when everything before it has ended, well or badly. */
export function useQueue(name: string): <T>(work: () => Promise<T>) => Promise<T> {
  const { mutateAsync } = useMutation({
    scope: { id: name },
    networkMode: "always",
    mutationFn: (work: () => Promise<unknown>) => work(),
  });
  return useCallback(<T>(work: () => Promise<T>) => mutateAsync(work) as Promise<T>, [mutateAsync]);
}
