// What a meeting came to in a case, with the words of the minutes.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say } from "../shared/text";

type Result = Schemas["WriteMinutes"]["result"];
const RESULTS: [Result, string][] = [
  ["in favour", say("in favour")],
  ["against", say("against")],
  ["put off", say("put off to another meeting")],
];

export function Minutes({ item, onDone }: { item: Schemas["ItemView"]; onDone: () => void }) {
  const { reference } = item;
  const [result, setResult] = useState<Result | "">(item.result as Result | "");
  const [words, setWords] = useState(item.words);
  const minute = useMutation({
    mutationFn: (chosen: Result) =>
      ask(
        api.POST("/api/cases/{reference}/minutes", {
          params: { path: { reference }, header: { "if-match": `"${item.revision}"` } },
          body: { result: chosen, words },
        }),
      ),
    onSuccess: onDone,
  });
  return (
    <form
      className="meetings-minutes"
      aria-label={say("Minutes for {{reference}}", { reference })}
      onSubmit={(e) => {
        e.preventDefault();
        if (result) minute.mutate(result);
      }}
    >
      <fieldset>
        <legend>{say("What did it come to?")}</legend>
        {RESULTS.map(([id, label]) => (
          <label key={id}>
            <input type="radio" name={`result-${reference}`} checked={result === id} onChange={() => setResult(id)} />{" "}
            {label}
          </label>
        ))}
      </fieldset>
      <label htmlFor={`words-${reference}`}>
        {result === "in favour" ? say("Words of the minutes, if there are any") : say("Words of the minutes")}
      </label>
      <textarea
        id={`words-${reference}`}
        rows={2}
        maxLength={2000}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      {result === "put off" && <p className="second">{say("The applicant reads these words.")}</p>}
      <ProblemNote error={minute.error} />
      <button
        type="submit"
        className="jc-button"
        disabled={!result || minute.isPending || (result !== "in favour" && words.trim().length < 3)}
      >
        {say("Minute it")}
      </button>
    </form>
  );
}
