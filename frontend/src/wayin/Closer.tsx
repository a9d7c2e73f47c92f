// A closer estimate: how many of each thing that repeats, and the questions that settle the price; printed if one likes.
import { NumberInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import { type Answers, givenIn, itemsIn } from "../filing/draft";
import { Questions } from "../filing/Questions";
import { say } from "../shared/text";

type View = Schemas["WayInView"] & { form: Parameters<typeof Questions>[0]["view"]["form"] };

export function Closer({
  view,
  answers,
  onPart,
}: {
  view: View;
  answers: Answers;
  onPart: (part: string, value: unknown) => void;
}) {
  if (view.counts.length + view.price_asks.length === 0) return null;
  // as many repeats as are counted, each with what was answered of it
  const counted = (part: string, count: number) => {
    const known = itemsIn(answers, part);
    return Array.from({ length: count }, (_, n) => known[n] ?? { id: n + 1 });
  };
  const asked = new Set(view.price_asks);
  return (
    <section className="way-in-closer" aria-label={say("A closer price")}>
      <h2>{say("A closer price")}</h2>
      <p className="second">
        {say("If you like: what the price hangs on. What you answer here goes into the filing too.")}
      </p>
      {view.counts.map((c) => (
        <NumberInput
          key={c.part}
          label={say("{{title}}: how many?", { title: c.title })}
          min={1}
          max={c.at_most}
          value={c.count}
          w={220}
          mb="md"
          onChange={(to) => Number(to) > 0 && onPart(c.part, counted(c.part, Math.min(Number(to), c.at_most)))}
        />
      ))}
      {view.form.parts.map((part) => {
        const places = view.price_asks.filter((place) => place.startsWith(`${part.id}.`));
        if (!part.each)
          return places.map((place) => (
            <Questions
              key={place}
              view={view}
              part={part}
              only={place}
              answers={{ [part.id]: givenIn(answers, part.id) }}
              onPart={(value) => onPart(part.id, value)}
            />
          ));
        const count = view.counts.find((c) => c.part === part.id)?.count ?? 0;
        const items = counted(part.id, count);
        return items.map((item) => {
          const own = part.questions.filter((q) => asked.has(`${part.id}.${item.id}.${q.id}`));
          return own.length === 0 ? null : (
            <fieldset key={item.id} className="filing-item">
              <legend>
                {part.one ?? part.title} {item.id}
              </legend>
              <Questions
                view={view}
                part={{ ...part, each: false, questions: own }}
                item={item.id}
                answers={{ [part.id]: item }}
                onPart={(value) =>
                  onPart(
                    part.id,
                    items.map((other) => (other.id === item.id ? { ...(value as object), id: item.id } : other)),
                  )
                }
              />
            </fieldset>
          );
        });
      })}
    </section>
  );
}
