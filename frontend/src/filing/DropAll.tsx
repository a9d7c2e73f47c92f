// All papers at once: dropped together they go to the pile, where each is offered its place.
import { useThrottledCallback } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { api, ask } from "../api/client";
import { ARRIVED, sendFiles } from "../api/sending";
import { ChooseFiles } from "../shared/ChooseFiles";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import type { Work } from "./draft";
import { OnTheirWay } from "./OnTheirWay";
import { useDrop } from "./useDrop";
import "./drop-all.css";

/** The name under which files are sent to the pile of a draft. */
export const PILE = "pile";
/** How often a pile is looked at while something in it is being read, in milliseconds. */
const READING = 1500;
/** How often it is looked at while files arrive. */
export const ARRIVING = 1000;

export const pileKey = (draft: string) => ["pile", draft];

/** The pile of a draft; looked at again while it is being read and when something has arrived. */
export function usePile(draft: string) {
  const queries = useQueryClient();
  const pile = useQuery({
    queryKey: pileKey(draft),
    queryFn: () => ask(api.GET("/api/drafts/{draft}/pile", { params: { path: { draft } } })),
    enabled: draft !== "",
    refetchInterval: (query) => ((query.state.data?.reading ?? 0) > 0 ? READING : false),
  });
  // many files arrive one after the other: what is told of the first is not waited for by each of the others
  const again = useThrottledCallback(() => queries.invalidateQueries({ queryKey: pileKey(draft) }), ARRIVING);
  useEffect(() => {
    window.addEventListener(ARRIVED, again);
    return () => window.removeEventListener(ARRIVED, again);
  }, [again]);
  return pile;
}

/** Where everything can be dropped at once, and how many papers wait to be placed. */
export function DropAll({ id, work }: { id: string; work: Work }) {
  const person = useSession().data?.person?.id ?? "";
  const pile = usePile(id);
  const waiting = pile.data?.pieces.length ?? 0;
  const open = work.view?.assessment.left.filter((l) => l.place?.ref.startsWith("documents.")).length ?? 0;
  const send = (list: File[]) => sendFiles(person, id, PILE, list);
  const { over, zone } = useDrop(send);
  return (
    <section aria-label={say("All papers at once")} className={`pile-box pile-drop${over ? " over" : ""}`} {...zone}>
      <h2>{say("All papers at once")}</h2>
      <p>
        {say(
          "Drop everything you have: scans, photographs, a ZIP file, a mail with attachments. Each paper is read and offered its place; you confirm.",
        )}
      </p>
      <OnTheirWay draft={id} slot={PILE} />
      <p className="pile-choose">
        <ChooseFiles name={say("Files of all papers")} onFiles={send}>
          {say("Choose files")}
        </ChooseFiles>
        <a href="/api/separator.pdf" target="_blank" rel="noreferrer" className="second">
          {say("Separator sheet to print")}
        </a>
        {waiting > 0 && (
          <Link className="jc-button small" to={`/filing/${id}/pile`}>
            {say("{{papers}} to place: sort them", { papers: things(waiting, "paper") })}
          </Link>
        )}
        {waiting === 0 && open > 1 && (
          <span className="second">{say("{{open}} documents are still open.", { open })}</span>
        )}
      </p>
    </section>
  );
}
