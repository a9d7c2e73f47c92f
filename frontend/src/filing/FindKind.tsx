// Finding the right kind of application by what one needs; the kinds in two columns, each with when it is needed.
import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { shortDay } from "../shared/say";
import { say } from "../shared/text";
import { beginFiling } from "./beginning";
import "./kinds.css";

type Kind = Schemas["KindOut"];
const TYPING = 200;

/** What can be applied for; `foot` is what can be done with a kind. */
export function FindKind({ level, foot }: { level: "h2" | "h3"; foot: (kind: Kind) => ReactNode }) {
  const [need, setNeed] = useState("");
  const [wanted] = useDebouncedValue(need.trim(), TYPING);
  const kinds = useQuery({
    queryKey: ["kinds", wanted],
    queryFn: () => ask(api.GET("/api/kinds", { params: { query: { need: wanted } } })),
    placeholderData: keepPreviousData,
  });
  const found = kinds.data ?? [];
  // looked for, a sub-kind stands for itself; else beneath its kind
  const top = wanted ? found : found.filter((kind) => !kind.sub_kind_of);
  return (
    <>
      <TextInput
        className="kinds-need"
        label={say("What do you want to do?")}
        placeholder={say("in your own words: put up a shed, sell ice cream, bring a band…")}
        value={need}
        onChange={(e) => setNeed(e.target.value)}
      />
      <ProblemNote error={kinds.error} />
      {kinds.isPending && <Skeleton lines={4} />}
      <p role="status" className={wanted && kinds.isSuccess && found.length === 0 ? "second" : "jc-hidden"}>
        {wanted && kinds.isSuccess && found.length === 0
          ? say("Nothing fits these words. Try others, or look through all of them.")
          : ""}
      </p>
      <ul className="kinds">
        {top.map((kind) => (
          <li key={kind.kind}>
            <OneKind kind={kind} level={level} foot={foot} />
            {!wanted &&
              found
                .filter((sub) => sub.sub_kind_of === kind.kind)
                .map((sub) => (
                  <section
                    key={sub.kind}
                    className="jc-sub-kind"
                    aria-label={say("Belongs to {{title}}", { title: kind.title })}
                  >
                    <OneKind kind={sub} level={level} foot={foot} />
                  </section>
                ))}
          </li>
        ))}
      </ul>
    </>
  );
}

function OneKind({ kind, level, foot }: { kind: Kind; level: "h2" | "h3"; foot: (kind: Kind) => ReactNode }) {
  const Title = level;
  return (
    <>
      <Title>{kind.title}</Title>
      <p>{kind.about}</p>
      <div className="kinds-foot">
        {foot(kind)}
        <small>{say("{{law}}, rules of {{day}}", { law: kind.law, day: shortDay(kind.in_force) })}</small>
      </div>
    </>
  );
}

/** The kinds with a button each that begins a filing; where there is a way in, it leads through it. */
export function BeginKind({ level }: { level: "h2" | "h3" }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (kind: string) => beginFiling({ kind, answers: {} }),
    onSuccess: (id) => {
      queries.invalidateQueries({ queryKey: ["drafts"] });
      navigate(`/filing/${id}`);
    },
  });
  return (
    <>
      <ProblemNote error={begin.error} />
      <FindKind
        level={level}
        foot={(kind) => (
          <button
            type="button"
            className="jc-button small"
            disabled={begin.isPending}
            aria-label={say("Begin: {{title}}", { title: kind.title })}
            onClick={() => (kind.has_way_in ? navigate(`/way-in/${kind.kind}`) : begin.mutate(kind.kind))}
          >
            {say("Begin")}
          </button>
        )}
      />
    </>
  );
}

/** At the door: what one can know before signing in. */
export function DoorKinds() {
  return (
    <FindKind
      level="h3"
      foot={(kind) =>
        kind.has_way_in && (
          <Link
            to={`/way-in/${kind.kind}`}
            aria-label={say("Do I need it, what does it cost, what do I bring? {{title}}", { title: kind.title })}
          >
            {say("Do I need it, what does it cost, what do I bring?")}
          </Link>
        )
      }
    />
  );
}
