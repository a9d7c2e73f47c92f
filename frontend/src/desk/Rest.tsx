// Confirm the rest: what the machine finds met, looked over with its evidence beside it, and given in one.
import { useIntersection } from "@mantine/hooks";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { AnswerList } from "../filing/Filed";
import { Dialog, Yes } from "../shared/Dialog";
import { Key } from "../shared/Marks";
import { Sheet, showsSheets } from "../shared/Sheet";
import { say, things } from "../shared/text";
import type { Requirement } from "./checks";
import type { OnScreen } from "./onScreen";
import { type CaseView, fileUrl } from "./useCase";
import "./rest.css";

type Answer = { place: string; ask: string; said: string };
type Page = { id: string; file: Schemas["FileView"]; page: number; bears: Requirement[] };
type Part = { id: string; bears: Requirement[] };

/** So many answers are shown beside a requirement; one that rests on more has to be looked at by itself. */
const MOST_SHOWN = 16;

/** The answers that a requirement rests on alone; nothing where a file bears it, or where they are too many for a list. */
function answersOf(r: Requirement, asked: Answer[]): Answer[] {
  if (r.files.length > 0 || r.rests_on.length === 0) return [];
  const found = r.places.map(({ ref }) => asked.filter((a) => a.place === ref || a.place.startsWith(`${ref}.`)));
  const answers = found.flat();
  return found.every((own) => own.length > 0) && answers.length <= MOST_SHOWN ? answers : [];
}

/** Every answer that is asked, with its question. */
function answersIn(view: CaseView): Answer[] {
  return view.form.parts.flatMap((part) => {
    const own = view.assessment.parts.find((p) => p.id === part.id)?.questions ?? [];
    const asks = new Map(part.questions.map((q) => [q.id, q.ask]));
    return own
      .filter((q) => q.asked === "yes")
      .map((q) => ({ place: q.place, ask: asks.get(placeOf(q.place).question) ?? "", said: q.said }));
  });
}

/** What is looked over: sheets and parts that were not shown yet with what they bear, then answers, then what was shown before. */
function inOrder(view: CaseView, seen: (r: Requirement) => boolean, note: OnScreen) {
  const all = view.assessment.requirements.filter((r) => r.confirmable);
  const asked = answersIn(view);
  const files = view.versions.at(-1)?.files ?? [];
  const pages = new Map<string, Page>();
  const parts = new Map<string, Part>();
  const answers: { r: Requirement; own: Answer[] }[] = [];
  const before: Requirement[] = [];
  const away: Requirement[] = [];
  for (const r of all) {
    const own = answersOf(r, asked);
    const open = r.rests_on.filter((one) => !note.seen([one]));
    const found = open.flatMap((id) => {
      const file = files.find((f) => id.startsWith(`${f.attachment.id} `));
      return file && showsSheets(file) ? [{ id, file, page: Number(id.slice(file.attachment.id.length)) }] : [];
    });
    const whole = open.filter((id) => view.assessment.parts.some((p) => p.id === placeOf(id).head));
    if (own.length > 0) answers.push({ r, own });
    else if (seen(r)) before.push(r);
    else if (found.length + whole.length < open.length) away.push(r);
    else {
      for (const { id, file, page } of found) {
        const there = pages.get(id) ?? { id, file, page, bears: [] };
        pages.set(id, { ...there, bears: [...there.bears, r] });
      }
      for (const id of whole) parts.set(id, { id, bears: [...(parts.get(id)?.bears ?? []), r] });
    }
  }
  return { pages: [...pages.values()], parts: [...parts.values()], answers, before, away };
}

type Looked = {
  view: CaseView;
  /** Whether a requirement's evidence was on the screen. */
  seen: (r: Requirement) => boolean;
  /** What was on the screen, and how more is noted. */
  screen: OnScreen;
  onGive: () => void;
  /** To a requirement that has to be looked at by itself. */
  onSee: (r: Requirement) => void;
  onClose: () => void;
};

export function Rest({ opened, ...looked }: Looked & { opened: boolean }) {
  const count = looked.view.assessment.requirements.filter((r) => r.confirmable).length;
  return (
    <Dialog
      title={say("Look over: {{count}} met, says the machine", { count })}
      opened={opened}
      onClose={looked.onClose}
    >
      <LookOver {...looked} />
    </Dialog>
  );
}

/** The list, in the order in which it stood when it was opened, so that nothing jumps while it is looked over. */
function LookOver({ view, seen, screen, onGive, onSee, onClose }: Looked) {
  const [room, setRoom] = useState<HTMLDivElement | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what comes into sight changes no order
  const { pages, parts, answers, before, away } = useMemo(() => inOrder(view, seen, screen), [view]);
  const shown = view.assessment.requirements.filter((r) => r.confirmable && seen(r)).length;
  const below = [...new Set([...pages, ...parts].flatMap((p) => p.bears)), ...answers.map((a) => a.r)].filter(
    (r) => !seen(r),
  ).length;
  const first = away[0];
  return (
    <div
      className="rest"
      onKeyDown={(e) => {
        // past the end, to what went by before it was drawn
        if (e.key === " " && e.target === room && room.scrollTop + room.clientHeight >= room.scrollHeight - 2)
          room.querySelector("[data-unseen=true]")?.scrollIntoView({ block: "start" });
        if (e.key !== "Enter" || shown === 0 || (e.target as HTMLElement).closest("button, a")) return;
        e.preventDefault();
        onClose();
        onGive();
      }}
    >
      <p className="rest-head">
        <Yes onYes={onGive} onClose={onClose} disabled={shown === 0} elsewhere>
          {say("Confirm {{shown}} as met", { shown: things(shown, "requirement") })} <Key>{say("Enter")}</Key>
        </Yes>{" "}
        {below > 0 && (
          <span>
            {say("{{below}} not in sight yet", { below: things(below, "requirement") })} <Key>{say("Space")}</Key>
          </span>
        )}{" "}
        {first && (
          <span>
            {say("Left open, to be looked at by itself: {{away}}.", { away: things(away.length, "requirement") })}{" "}
            <button
              type="button"
              className="jc-link"
              onClick={() => {
                onClose();
                onSee(first);
              }}
            >
              {say("look at the first")}
            </button>
          </span>
        )}
      </p>
      <div
        ref={setRoom}
        className="rest-room"
        tabIndex={0}
        role="group"
        aria-label={say("What is looked over")}
        data-autofocus
      >
        {pages.map((p) => (
          <section
            key={p.id}
            className="rest-sheet"
            aria-label={p.file.attachment.name}
            data-unseen={!screen.seen([p.id])}
          >
            <Sheet
              url={fileUrl(view.reference, p.file)}
              file={p.file}
              page={p.page}
              room={room}
              onSeen={() => screen.note(p.id)}
            />
            <div className="rest-bears">
              <h3>
                {p.file.slot_title} <small>{p.file.attachment.name}</small>
              </h3>
              <List
                requirements={p.bears}
                of={p.bears.find((r) => p.file.slot_title.endsWith(r.item_label))?.item_label}
              />
            </div>
          </section>
        ))}
        {parts.map((p) => (
          <section key={p.id} className="rest-sheet" data-unseen={!screen.seen([p.id])}>
            <div>
              <AnswerList
                form={view.form}
                assessment={view.assessment}
                answers={view.versions.at(-1)?.dossier.answers ?? {}}
                only={p.id}
              />
              <InSight as="p" room={room} onSeen={() => screen.note(p.id)} />
            </div>
            <div className="rest-bears">
              <List requirements={p.bears} />
            </div>
          </section>
        ))}
        {answers.length > 0 && (
          <ul>
            {answers.map(({ r, own }) => (
              <InSight key={r.id} room={room} onSeen={() => screen.note(`answers-${r.id}`)}>
                <b>{r.title}</b>{" "}
                {own.map((a) => (
                  <span key={a.place} className="rest-answer">
                    {a.ask.endsWith("?") ? a.ask : `${a.ask}:`} <b>{a.said || say("not answered")}</b>
                  </span>
                ))}
              </InSight>
            ))}
          </ul>
        )}
        <List requirements={before} />
      </div>
    </div>
  );
}

/** Requirements with what the machine says; `of` is the item that stands above them and is not named again. */
function List({ requirements, of = "" }: { requirements: Requirement[]; of?: string }) {
  if (requirements.length === 0) return null;
  return (
    <ul>
      {requirements.map((r) => (
        <li key={r.id}>
          <b>{of && r.item_label === of ? r.plain_title : r.title}</b> <span className="second">{r.because}</span>
        </li>
      ))}
    </ul>
  );
}

/** A line of the list that is seen once the whole of it is in sight. */
function InSight({
  room,
  onSeen,
  as: Tag = "li",
  children,
}: {
  room: HTMLElement | null;
  onSeen: () => void;
  as?: "li" | "p";
  children?: ReactNode;
}) {
  const { ref, entry } = useIntersection<HTMLElement>({ root: room, threshold: 1 });
  const tell = useRef(onSeen);
  tell.current = onSeen;
  const whole = !!room && !!entry?.isIntersecting;
  useEffect(() => {
    if (whole) tell.current();
  }, [whole]);
  return <Tag ref={ref}>{children}</Tag>;
}
