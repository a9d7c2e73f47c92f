// The letter that says what the way in says: not needed, or another office decides.
import { useMutation } from "@tanstack/react-query";
import { ProblemError } from "../api/client";

export function useWayInLetter(kind: string) {
  return useMutation({
    mutationFn: async (answers: unknown) => {
      const answer = await fetch(`/api/kinds/${kind}/way-in/letter`, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ answers }),
      });
      if (!answer.ok) throw new ProblemError(await answer.json());
      const address = URL.createObjectURL(await answer.blob());
      const link = document.createElement("a");
      link.href = address;
      link.download = `${kind}-letter.pdf`;
      link.click();
      window.setTimeout(() => URL.revokeObjectURL(address), 10_000);
    },
  });
}
