// The texts of the edition beside what they are in another language; what has no text yet comes first, and leads to its line.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { LANGUAGES, say } from "../shared/text";
import { Faulty } from "./Faulty";
import "./translations.css";

export function Translations(of: {
  written: Schemas["WrittenEdition"];
  faulty: boolean;
  onGoTo: (line: number) => void;
  text: string;
  onText: (text: string) => void;
}) {
  const { written } = of;
  const [chosen, setChosen] = useState("");
  const found = useQuery({
    queryKey: ["rules", written.id, "translations", written.revision],
    queryFn: () =>
      ask(api.GET("/api/rules/editions/{edition}/translations", { params: { path: { edition: written.id } } })),
    enabled: !of.faulty,
    placeholderData: (before) => before,
  });
  if (of.faulty && !found.data) return <Faulty />;
  if (!found.data) return found.error ? <ProblemNote error={found.error} /> : <Skeleton lines={5} />;
  const told = found.data.find((one) => one.language === chosen) ?? found.data[0];
  if (!told)
    return (
      <p className="second">
        {say("It says nothing in another language yet. A section “translations” at its end names each language.")}
      </p>
    );
  return (
    <>
      <label className="rules-choose">
        {say("Language")}
        <select className="jc-field" value={told.language} onChange={(e) => setChosen(e.target.value)}>
          {found.data.map((one) => (
            <option key={one.language} value={one.language}>
              {LANGUAGES[one.language as keyof typeof LANGUAGES] ?? one.language}
            </option>
          ))}
        </select>
      </label>
      <p role="status" className={told.missing ? "ochre" : "moss"}>
        {told.missing
          ? say("{{missing}} of {{all}} texts have none yet; they come first.", {
              missing: told.missing,
              all: told.texts.length,
            })
          : say("All {{all}} texts are there.", { all: told.texts.length })}
      </p>
      <dl className="rules-texts">
        {told.texts.map((one) => (
          <div key={one.text} className={one.says ? "" : "missing"}>
            <dt>
              <button type="button" className="jc-link" onClick={() => of.onGoTo(one.line)}>
                {one.line}
                <span className="jc-hidden">: {say("to this line")}</span>
              </button>{" "}
              {one.text}
            </dt>
            <dd lang={told.language}>
              <OneText
                key={one.says}
                one={one}
                writes={written.writes}
                say={async (says) => {
                  const body = { text: of.text, language: told.language, original: one.text, says };
                  of.onText((await ask(api.POST("/api/rules/translated", { body }))).text);
                }}
              />
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

/** How a text is said in the other language; pressed, it is typed here and goes into the text of the edition. */
function OneText(of: { one: Schemas["TextBeside"]; writes: boolean; say: (says: string) => Promise<void> }) {
  const [typing, setTyping] = useState(false);
  const [says, setSays] = useState(of.one.says);
  const put = useMutation({ mutationFn: of.say, onSuccess: () => setTyping(false) });
  if (!of.writes) return of.one.says || say("no text yet");
  if (!typing)
    return (
      <>
        {of.one.says || say("no text yet")}{" "}
        <button type="button" className="jc-link quiet" onClick={() => setTyping(true)}>
          {of.one.says ? say("change it") : say("type it")}
          <span className="jc-hidden">: {of.one.text}</span>
        </button>
      </>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        put.mutate(says);
      }}
      onKeyDown={(e) => e.key === "Escape" && setTyping(false)}
    >
      <textarea
        className="jc-field"
        aria-label={say("In the other language: {{text}}", { text: of.one.text })}
        value={says}
        rows={2}
        autoFocus
        onChange={(e) => setSays(e.target.value)}
      />
      <button type="submit" className="jc-button plain small" disabled={put.isPending}>
        {say("Put it into the text")}
      </button>
      <ProblemNote error={put.error} />
    </form>
  );
}
