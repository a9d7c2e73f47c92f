// The inspections of a permit: booked and moved by its holder, with what each found; the office tells the result.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas, tokenHeader } from "../api/client";
import { ChooseFiles } from "../shared/ChooseFiles";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { amount, capital, day, sign } from "../shared/say";
import { say } from "../shared/text";
import type { Page } from "./page";

type Visit = Schemas["VisitView"];

/** Do something to the permit with the state that was seen; the page that comes back is shown. */
function useChange(page: Page) {
  const queries = useQueryClient();
  const onSuccess = (fresh: Page) => {
    queries.setQueryData(["case", page.reference, "permit"], fresh);
    queries.invalidateQueries({ queryKey: ["case", page.reference], exact: true });
  };
  return { onSuccess, header: { "if-match": `"${page.revision}"` }, path: { reference: page.reference } };
}

export function Visits({ page }: { page: Page }) {
  return (
    <section aria-labelledby="permit-visits">
      <h2 id="permit-visits">{say("Inspections")}</h2>
      <ol className="permit-visits">
        {page.visits.map((visit) => (
          <OneVisit key={visit.id} page={page} visit={visit} />
        ))}
      </ol>
    </section>
  );
}

function OneVisit({ page, visit }: { page: Page; visit: Visit }) {
  const [choosing, setChoosing] = useState(false);
  const [telling, setTelling] = useState(false);
  const { path, header, onSuccess } = useChange(page);
  const drop = useMutation({
    mutationFn: () =>
      ask(
        api.DELETE("/api/cases/{reference}/permit/inspections/{no}", {
          params: { path: { ...path, no: visit.no }, header },
        }),
      ),
    onSuccess,
  });
  const cost = Number(visit.cost) > 0 && `${sign(page.currency)} ${amount(visit.cost)}`;
  return (
    <li>
      <div className="permit-visit-head">
        <h3>{visit.title}</h3>
        <span className={`permit-mark ${visit.tone}`}>{capital(visit.stands)}</span>
      </div>
      <p className="second">{visit.says}</p>
      {visit.on && (
        <p>
          <b>
            {day(visit.on)}, {visit.hours}
          </b>{" "}
          {visit.may_move && visit.may_move_until && (
            <span className="second">{say("can be moved until {{day}}", { day: day(visit.may_move_until) })}</span>
          )}
        </p>
      )}
      {visit.found.map((found) => (
        <Found key={found.no} page={page} found={found} />
      ))}
      {visit.again && <p className="permit-why">{say("To be made again by {{day}}.", { day: day(visit.again) })}</p>}
      {!visit.on && visit.why_not && visit.found.length === 0 && <p className="second">{visit.why_not}</p>}
      <ProblemNote error={drop.error} />
      <p className="permit-offer-foot">
        {page.books && (visit.may_book || visit.may_move) && !choosing && (
          <button type="button" className="jc-button plain small" onClick={() => setChoosing(true)}>
            {visit.on ? say("Move it") : say("Book it")}
          </button>
        )}
        {page.books && visit.may_move && !choosing && (
          <AskFirst
            className="jc-link"
            question={say("Give up the inspection of {{day}}?", { day: day(visit.on ?? "") })}
            yes={say("Give it up")}
            onYes={() => drop.mutate()}
          >
            {say("give it up")}
          </AskFirst>
        )}
        {page.holds && visit.may_hold && !telling && (
          <button type="button" className="jc-button small" onClick={() => setTelling(true)}>
            {say("Tell what it found")}
          </button>
        )}
        {cost && visit.may_book && <span className="second">{say("costs {{cost}} this time", { cost })}</span>}
      </p>
      {choosing && <ChooseHour page={page} visit={visit} onDone={() => setChoosing(false)} />}
      {telling && <TellResult page={page} visit={visit} onDone={() => setTelling(false)} />}
    </li>
  );
}

/** What an inspection found, with its photographs. */
function Found({ page, found }: { page: Page; found: Visit["found"][number] }) {
  return (
    <div className="permit-found">
      <p>
        <b>{found.passed ? say("Passed") : say("Not passed")}</b> <span className="second">{day(found.at)}</span>{" "}
        {found.words}
      </p>
      {found.photographs && found.photographs.length > 0 && (
        <p className="permit-photographs">
          {found.photographs.map((photo) => (
            <a
              key={photo.sha256}
              href={`/api/cases/${page.reference}/permit/photographs/${photo.sha256}`}
              target="_blank"
              rel="noreferrer"
            >
              <img
                src={`/api/cases/${page.reference}/permit/photographs/${photo.sha256}`}
                alt={photo.name}
                loading="lazy"
              />
            </a>
          ))}
        </p>
      )}
    </div>
  );
}

const DAYS_SHOWN = 14;

/** The free hours of two weeks, day by day; one press books. */
function ChooseHour({ page, visit, onDone }: { page: Page; visit: Visit; onDone: () => void }) {
  const { path, header, onSuccess } = useChange(page);
  const [first, setFirst] = useState(page.today);
  const free = useQuery({
    queryKey: ["hours", page.reference, visit.id, first],
    queryFn: () =>
      ask(
        api.GET("/api/cases/{reference}/permit/hours", {
          params: { path, query: { visit: visit.id, first } },
        }),
      ),
  });
  const book = useMutation({
    mutationFn: (begins: string) =>
      ask(
        api.POST("/api/cases/{reference}/permit/inspections", {
          params: { path, header },
          body: { visit: visit.id, begins },
        }),
      ),
    onSuccess: (fresh) => {
      onSuccess(fresh);
      onDone();
    },
  });
  const days = [...new Set(free.data?.map((hour) => hour.on))];
  const step = (by: number) => {
    const at = new Date(`${first}T00:00:00Z`);
    at.setUTCDate(at.getUTCDate() + by);
    setFirst([at.toISOString().slice(0, 10), page.today].toSorted().at(-1) ?? first);
  };
  return (
    <fieldset className="permit-hours">
      <legend>{say("Choose an hour for “{{title}}”", { title: visit.title })}</legend>
      <ProblemNote error={book.error ?? free.error} />
      {free.data && days.length === 0 && <p>{say("No hour is free in these two weeks.")}</p>}
      {days.map((on) => (
        <div key={on}>
          <b>{day(on)}</b>
          {free.data
            ?.filter((hour) => hour.on === on)
            .map((hour) => (
              <button
                key={hour.begins}
                type="button"
                className="jc-button plain small"
                disabled={book.isPending}
                onClick={() => book.mutate(hour.begins)}
                aria-label={`${day(on)}, ${hour.said}`}
              >
                {hour.said}
              </button>
            ))}
        </div>
      ))}
      <p className="permit-offer-foot">
        <button type="button" className="jc-link" disabled={first <= page.today} onClick={() => step(-DAYS_SHOWN)}>
          {say("two weeks before")}
        </button>
        <button type="button" className="jc-link" onClick={() => step(DAYS_SHOWN)}>
          {say("two weeks later")}
        </button>
        <button type="button" className="jc-link" onClick={onDone}>
          {say("cancel")}
        </button>
      </p>
    </fieldset>
  );
}

/** The office tells the result: passed, or what has to be put right; photographs go with it. */
function TellResult({ page, visit, onDone }: { page: Page; visit: Visit; onDone: () => void }) {
  const { onSuccess, path, header } = useChange(page);
  const [words, setWords] = useState("");
  const [photographs, setPhotographs] = useState<File[]>([]);
  const tell = useMutation({
    mutationFn: (passed: boolean) => {
      const body = new FormData();
      body.append("passed", String(passed));
      body.append("words", words);
      for (const photo of photographs) body.append("photographs", photo, photo.name);
      return ask(
        api.POST("/api/cases/{reference}/permit/inspections/{no}/result", {
          params: { path: { ...path, no: visit.no }, header },
          headers: tokenHeader(),
          body: body as never,
          bodySerializer: () => body,
        }),
      );
    },
    onSuccess: (fresh) => {
      onSuccess(fresh);
      onDone();
    },
  });
  return (
    <fieldset className="permit-hours">
      <legend>{say("What “{{title}}” found", { title: visit.title })}</legend>
      <label className="permit-words">
        {say("In words; the holder reads it")}
        <textarea
          className="jc-field"
          value={words}
          maxLength={2000}
          rows={3}
          onChange={(e) => setWords(e.target.value)}
        />
      </label>
      <p>
        <ChooseFiles name={say("Photographs")} onFiles={(files) => setPhotographs((had) => [...had, ...files])}>
          {say("add photographs")}
        </ChooseFiles>{" "}
        <span className="second">{photographs.map((photo) => photo.name).join(", ")}</span>
      </p>
      <ProblemNote error={tell.error} />
      <p className="permit-offer-foot">
        <button type="button" className="jc-button" disabled={tell.isPending} onClick={() => tell.mutate(true)}>
          {say("Passed")}
        </button>
        <button
          type="button"
          className="jc-button plain"
          disabled={tell.isPending || words.trim().length < 5}
          onClick={() => tell.mutate(false)}
        >
          {say("Not passed")}
        </button>
        <button type="button" className="jc-link" onClick={onDone}>
          {say("cancel")}
        </button>
      </p>
    </fieldset>
  );
}
