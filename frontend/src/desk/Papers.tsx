// All papers of a case at a glance: words found in them, two of them compared, some of them as one PDF.
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import type { PageBox } from "../shared/PdfView";
import { Sheet, showsSheets } from "../shared/Sheet";
import { dayOf } from "../shared/say";
import { say, things } from "../shared/text";
import { type Paper, papersOf } from "./papersOf";
import type { Side } from "./TwoFiles";
import { type CaseView, fileUrl, path } from "./useCase";
import "./papers.css";

/** Files of more bytes have no thumbnail: it would be fetched whole for a small picture. */
const MOST_FOR_THUMBNAIL = 20_000_000;
const PAUSE = 250;
const nothing = () => undefined;

export function Papers({
  view,
  onShow,
  onCompare,
}: {
  view: CaseView;
  onShow: (attachment: string, places?: PageBox[]) => void;
  onCompare: (two: [Side, Side]) => void;
}) {
  const [room, setRoom] = useState<HTMLElement | null>(null);
  const [chosen, setChosen] = useState<string[]>([]);
  const papers = papersOf(view);
  const toggle = (id: string) =>
    setChosen((now) => (now.includes(id) ? now.filter((one) => one !== id) : [...now, id]));
  const picked = chosen.map((id) => papers.find((p) => p.file.attachment.id === id)).filter((p): p is Paper => !!p);
  const side = ({ file, version }: Paper): Side => ({
    url: fileUrl(view.reference, file),
    label: say("{{name}}, version {{no}}, {{day}}", {
      name: file.attachment.name,
      no: version.no,
      day: dayOf(version.at),
    }),
    file,
  });
  const [first, second] = picked;
  const bound = chosen.map((id) => `file=${encodeURIComponent(id)}`).join("&");
  const groups = [
    [say("In the version that stands now"), papers.filter((p) => p.now)],
    [say("In earlier versions only"), papers.filter((p) => !p.now)],
  ] as const;
  return (
    <div ref={setRoom} className="desk-sheet papers" tabIndex={0} role="group" aria-label={say("All papers")}>
      <Words view={view} onShow={onShow} />
      <p className="papers-chosen">
        {chosen.length === 0 ? (
          <span className="second">
            {say("Tick papers to compare two of them or to bind some into one PDF.")}{" "}
            <a href={`/api/cases/${view.reference}/package`} download>
              {say("The whole case as a package (ZIP)")}
            </a>
          </span>
        ) : (
          <>
            <b>{say("{{papers}} ticked", { papers: things(chosen.length, "paper") })}</b>
            <a
              className="jc-button small"
              href={`/api/cases/${view.reference}/bundle?${bound}`}
              target="_blank"
              rel="noreferrer"
            >
              {say("As one PDF")}
            </a>
            <button
              type="button"
              className="jc-button plain small"
              disabled={picked.length !== 2}
              onClick={() => first && second && onCompare([side(first), side(second)])}
            >
              {say("Compare the two")}
            </button>
            <button type="button" className="jc-link" onClick={() => setChosen([])}>
              {say("none")}
            </button>
          </>
        )}
        {chosen.length < papers.length && (
          <button type="button" className="jc-link" onClick={() => setChosen(papers.map((p) => p.file.attachment.id))}>
            {say("all")}
          </button>
        )}
      </p>
      {groups.map(
        ([title, some]) =>
          some.length > 0 && (
            <section key={title} aria-label={title}>
              <h2>
                {title} <span className="second">{some.length}</span>
              </h2>
              <ul className="papers-grid">
                {some.map(({ file, version }) => (
                  <li key={file.attachment.id} className={chosen.includes(file.attachment.id) ? "chosen" : ""}>
                    <button type="button" className="papers-look" onClick={() => onShow(file.attachment.id)}>
                      <span className="papers-thumb">
                        {showsSheets(file) && file.attachment.size < MOST_FOR_THUMBNAIL ? (
                          <Sheet
                            url={fileUrl(view.reference, file)}
                            file={file}
                            page={1}
                            room={room}
                            onSeen={nothing}
                          />
                        ) : (
                          <span className="second">{file.said}</span>
                        )}
                      </span>
                      <b>{file.attachment.name}</b>
                      <small>
                        {file.slot_title}
                        <br />
                        {say("version {{version}}", { version: version.no })} ·{" "}
                        {file.pages > 0 ? things(file.pages, "sheet") : file.said}
                      </small>
                    </button>
                    <label>
                      <input
                        type="checkbox"
                        checked={chosen.includes(file.attachment.id)}
                        onChange={() => toggle(file.attachment.id)}
                      />{" "}
                      {say("tick")}
                      <span className="jc-hidden"> {file.attachment.name}</span>
                    </label>
                  </li>
                ))}
              </ul>
            </section>
          ),
      )}
    </div>
  );
}

/** Words looked for in the text of all files, each place a line that leads to it. */
function Words({ view, onShow }: { view: CaseView; onShow: (attachment: string, places?: PageBox[]) => void }) {
  const [text, setText] = useState("");
  const [wanted] = useDebouncedValue(text.trim(), PAUSE);
  const found = useQuery({
    queryKey: ["words", view.reference, view.revision, wanted],
    queryFn: () =>
      ask(api.GET("/api/cases/{reference}/words", { params: { ...path(view.reference), query: { text: wanted } } })),
    enabled: wanted.length > 1,
  });
  const places = (wanted.length > 1 && found.data?.places) || [];
  /** The place that was chosen comes first: it is brought to the eye. */
  const show = (place: Schemas["WordsAt"]) => {
    const others = places.filter((p) => p.file === place.file && p !== place);
    onShow(
      place.file,
      [place, ...others].map((p): PageBox => ({ page: p.page, box: p.box, label: p.text, odd: false })),
    );
  };
  return (
    <section aria-label={say("Words in all papers")} className="papers-words">
      <input
        type="search"
        value={text}
        onChange={(e) => setText(e.target.value)}
        placeholder={say("Find words in all papers")}
        aria-label={say("Find words in all papers")}
      />
      <ProblemNote error={found.error} />
      {wanted.length > 1 && found.data && (
        <p role="status" className="second">
          {places.length === 0 ? say("Nowhere.") : say("In {{places}}.", { places: things(places.length, "place") })}
          {found.data.more && ` ${say("There are more; these are the first.")}`}
          {found.data.unread.length > 0 &&
            ` ${say("Not read yet, or not to be read: {{names}}.", { names: found.data.unread.join(", ") })}`}
        </p>
      )}
      {places.length > 0 && (
        <ul>
          {places.map((p) => (
            <li key={`${p.file} ${p.page} ${p.box.join()}`}>
              <button type="button" className="jc-link" onClick={() => show(p)}>
                {p.name}, {say("sheet {{page}}", { page: p.page })}
              </button>{" "}
              <span>{p.text}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
