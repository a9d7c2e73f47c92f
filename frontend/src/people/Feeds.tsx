// Limits in one's own calendar: a link that a calendar subscribes to, made and taken back.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { exactly, since } from "../shared/say";
import { say } from "../shared/text";
import "./people.css";

export function Feeds() {
  const queries = useQueryClient();
  const feeds = useQuery({ queryKey: ["feeds"], queryFn: () => ask(api.GET("/api/feeds")) });
  const again = () => queries.invalidateQueries({ queryKey: ["feeds"] });
  const make = useMutation({
    mutationFn: (team: boolean) => ask(api.POST("/api/feeds", { body: { team } })),
    onSuccess: again,
  });
  const end = useMutation({
    mutationFn: (feed: string) => ask(api.DELETE("/api/feeds/{feed}", { params: { path: { feed } } })),
    onSuccess: again,
  });
  return (
    <section aria-labelledby="feeds">
      <h2 id="feeds">{say("Limits in a calendar")}</h2>
      <p className="second">
        {say(
          "A link that your calendar subscribes to. It tells references and days, and no names; whoever has the link can read it.",
        )}
      </p>
      <ProblemNote error={feeds.error ?? make.error ?? end.error} />
      <p>
        <button type="button" className="jc-button plain small" onClick={() => make.mutate(false)}>
          {say("Of my cases")}
        </button>{" "}
        <button type="button" className="jc-button plain small" onClick={() => make.mutate(true)}>
          {say("Of all cases that I see")}
        </button>
      </p>
      {make.data && (
        <p role="status">
          {say("Copy this link now; it is not shown again:")} <code className="feed-link">{make.data.link}</code>
        </p>
      )}
      <ul className="print-queue">
        {feeds.data?.map((feed) => (
          <li key={feed.id}>
            {feed.team ? say("Of all cases that I see") : say("Of my cases")},{" "}
            <span className="second">
              {say("made {{at}}", { at: exactly(feed.made_at) })}
              {feed.read_at ? `, ${say("read {{when}}", { when: since(feed.read_at) })}` : `, ${say("never read yet")}`}
            </span>{" "}
            <button type="button" className="jc-link" onClick={() => end.mutate(feed.id)}>
              {say("take it back")}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
