// People, sites and the like that one named in earlier filings: picked before they are typed again.
import { Checkbox, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";
import { useGroup } from "./group";
import "./earlier.css";

/** So many are shown without a search. */
const SHOWN = 8;

export function Earlier({ part, most }: { part: string; most: number }) {
  const group = useGroup();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const draft = group?.draft ?? "";
  const key = ["earlier", draft, part];
  const found = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/drafts/{draft}/parts/{part}/earlier", { params: { path: { draft, part } } })),
    enabled: open,
    staleTime: 0,
  });
  const pick = useMutation({
    mutationFn: () => group?.pick(part, chosen) ?? Promise.resolve(),
    onSuccess: () => {
      setChosen([]);
      setWords("");
      setOpen(false);
      queries.removeQueries({ queryKey: key });
    },
  });
  if (!group || most <= 0) return null;
  const wanted = words.trim().toLocaleLowerCase();
  const all = found.data ?? [];
  const fitting = all.filter((one) => `${one.label} ${one.called} ${one.said}`.toLocaleLowerCase().includes(wanted));
  return (
    <details className="earlier" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>{say("Pick from your earlier filings")}</summary>
      <ProblemNote error={found.error ?? pick.error} />
      {found.data?.length === 0 && (
        <p className="second">{say("You have named nobody and nothing before that fits here.")}</p>
      )}
      {all.length > SHOWN && (
        <TextInput
          size="xs"
          type="search"
          aria-label={say("Find among them")}
          placeholder={say("Find among them")}
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      )}
      {fitting.slice(0, SHOWN).map((one) => (
        <Checkbox
          key={one.key}
          size="sm"
          checked={chosen.includes(one.key)}
          onChange={(e) => {
            const on = e.currentTarget.checked;
            setChosen((now) => (on ? [...now, one.key] : now.filter((k) => k !== one.key)));
          }}
          label={<b>{one.label}</b>}
          description={[one.said, say("as in {{other}}", { other: one.called })].filter(Boolean).join(" · ")}
        />
      ))}
      {fitting.length > SHOWN && (
        <p className="second">{say("{{count}} more: type a name.", { count: fitting.length - SHOWN })}</p>
      )}
      {chosen.length > most && <p className="madder">{say("{{most}} more is the most.", { most })}</p>}
      {all.length > 0 && (
        <button
          type="button"
          className="jc-button small"
          disabled={chosen.length === 0 || chosen.length > most || pick.isPending}
          onClick={() => pick.mutate()}
        >
          {say("Add them")}
        </button>
      )}
    </details>
  );
}
