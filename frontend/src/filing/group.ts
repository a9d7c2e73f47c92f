// What a table of repeats needs of the filing that it stands in: rows taken in by the office, papers sent to the pile.
import { createContext, useContext, useMemo } from "react";
import { api, ask, type Schemas } from "../api/client";
import { sendFiles } from "../api/sending";
import { useSession } from "../shared/session";
import { PILE } from "./DropAll";
import type { Work } from "./draft";

export type Complaint = Schemas["Complaint"];
/** What became of rows that were taken in, and where they came from. */
export type Taken = { of: string; added: number; changed: number; complaints: Complaint[]; trouble?: unknown };
export type Group = {
  draft: string;
  take: (part: string, rows: string[][], of: string, columns: string[], first?: number) => Promise<Taken>;
  /** Adds what was named in earlier filings, by its keys. */
  pick: (part: string, keys: string[]) => Promise<unknown>;
  read: (file: File) => Promise<string[][]>;
  papers: (files: File[]) => void;
};

export const Grouping = createContext<Group | null>(null);
/** Nothing where a form is only tried. */
export const useGroup = () => useContext(Grouping);

export function useGrouping(id: string, work: Work): Group {
  const person = useSession().data?.person?.id ?? "";
  const { change, forget } = work;
  return useMemo(
    () => ({
      draft: id,
      take: async (part, rows, of, columns, first) => {
        const found: Taken = { of, added: 0, changed: 0, complaints: [] };
        try {
          await change(async (seen) => {
            const reply = await ask(
              api.POST("/api/drafts/{draft}/parts/{part}/rows", {
                params: { path: { draft: id, part } },
                headers: seen,
                body: { rows, columns, first },
              }),
            );
            Object.assign(found, { added: reply.added, changed: reply.changed, complaints: reply.complaints });
            return reply;
          });
          forget(); // what was typed is kept; the rows that came in are shown
        } catch (trouble) {
          found.trouble = trouble;
        }
        return found;
      },
      pick: async (part, keys) => {
        await change((seen) =>
          ask(
            api.POST("/api/drafts/{draft}/parts/{part}/earlier", {
              params: { path: { draft: id, part } },
              headers: seen,
              body: { keys },
            }),
          ),
        );
        forget();
      },
      read: async (file) => {
        const body = new FormData();
        body.append("file", file);
        const reply = await ask(
          api.POST("/api/drafts/{draft}/parts/table", {
            params: { path: { draft: id } },
            body: body as never,
            bodySerializer: (form) => form as never,
          }),
        );
        return reply.rows;
      },
      papers: (files) => sendFiles(person, id, PILE, [...files]),
    }),
    [id, person, change, forget],
  );
}
