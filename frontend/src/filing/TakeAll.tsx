// What papers state for questions that are still open: listed with its source, taken one by one or all at once.
import { api, ask } from "../api/client";
import { say } from "../shared/text";
import { answersOffered, type Work } from "./draft";
import "./drop-all.css";

export function TakeAll({ work, id }: { work: Work; id: string }) {
  const view = work.view;
  if (!view) return null;
  const open = answersOffered(view);
  if (open.length === 0) return null;
  const take = (places: string[]) =>
    work.change((seen) =>
      ask(
        api.POST("/api/drafts/{draft}/taken", {
          params: { path: { draft: id } },
          headers: seen,
          body: { places },
        }),
      ),
    );
  return (
    <section className="pile-box pile-take" aria-label={say("Answers that your papers state")}>
      <h2>{say("Answers that your papers state")}</h2>
      <ul>
        {open.map(({ offer, label }) => (
          <li key={offer.place}>
            {label}: <b>{offer.said}</b> <span className="second">{offer.source}</span>{" "}
            <button type="button" className="jc-link" onClick={() => take([offer.place])}>
              {say("take it")}
              <span className="jc-hidden"> {label}</span>
            </button>
          </li>
        ))}
      </ul>
      <button type="button" className="jc-button small" onClick={() => take(open.map((o) => o.offer.place))}>
        {say("Take all {{count}}", { count: open.length })}
      </button>
    </section>
  );
}
