// Third parties asked to send one document straight to the office: who was asked for what, how it stands, and somebody new.
import { Textarea, TextInput } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { AskFirst } from "../shared/Dialog";
import { ProblemNote } from "../shared/Notes";
import { day, dayOf } from "../shared/say";
import { say } from "../shared/text";
import "./issuers.css";

type Asked = Schemas["Asked"];
type Place = { slot: string; title: string; delivered_by: string };
const NOBODY = { name: "", mail: "", words: "", wanted_by: "" };

const AGAIN = 30_000;

/** What was asked of issuers for a filing or a case; asked for anew when it has other files, and now and then while something is to come. */
export function useIssuers(of: string, files: number) {
  return useQuery({
    queryKey: ["issuers", of, files],
    queryFn: () => ask(api.GET("/api/issuers", { params: { query: { of } } })),
    placeholderData: keepPreviousData,
    staleTime: AGAIN,
    refetchInterval: (query) => (query.state.data?.some((one) => one.state !== "come") ? AGAIN : false),
  });
}

/** Those who were asked for the document of one slot, and asking somebody; only looked at unless the filing is one's own. */
export function IssuersOf({
  of,
  files,
  place,
  own,
  full,
}: {
  of: string;
  /** How many files the filing has. */
  files: number;
  place: Place;
  own: boolean;
  /** Something stands there already, so nobody has to be asked. */
  full: boolean;
}) {
  const asked = useIssuers(of, files);
  const [asking, setAsking] = useState(false);
  const its = asked.data?.filter((one) => one.place === `documents.${place.slot}`) ?? [];
  const waits = its.some((one) => one.state !== "come");
  const offered = own && !asking && !waits && (!full || !!place.delivered_by || its.length > 0);
  const first = !!place.delivered_by && !full && its.length === 0;
  return (
    <>
      {its.length > 0 && (
        <ul className="issuers">
          {its.map((one) => (
            <OneIssuer key={one.id} one={one} of={of} own={own} />
          ))}
        </ul>
      )}
      {offered && (
        <p className="issuers-offer">
          <button type="button" className={first ? "jc-button small" : "jc-link"} onClick={() => setAsking(true)}>
            {its.length > 0 || full
              ? say("Ask for it once more")
              : place.delivered_by
                ? say("Ask them to send it")
                : say("Ask whoever issues it to send it straight to the office")}
            <span className="jc-hidden">: {place.title}</span>
          </button>
        </p>
      )}
      {asking && <AskIssuer of={of} place={place} onDone={() => setAsking(false)} />}
    </>
  );
}

/** All that was asked for a case, for whoever looks at it. */
export function IssuersOfCase({
  reference,
  files,
  own,
  wanted,
}: {
  reference: string;
  files: number;
  own: boolean;
  /** What a third party alone may send, and did not yet. */
  wanted: Place[];
}) {
  const asked = useIssuers(reference, files);
  const known = new Map((asked.data ?? []).map((one) => [one.place, one.title]));
  for (const place of wanted) known.set(`documents.${place.slot}`, place.title);
  if (known.size === 0) return null;
  return (
    <section className="issuers-all">
      <h2>{say("Documents that others send")}</h2>
      {[...known].map(([place, title]) => {
        const its = wanted.find((one) => `documents.${one.slot}` === place);
        return (
          <div key={place}>
            <h3>{title}</h3>
            <IssuersOf
              of={reference}
              files={files}
              own={own && !!its}
              full={!its}
              place={its ?? { slot: place.slice("documents.".length), title, delivered_by: "" }}
            />
          </div>
        );
      })}
    </section>
  );
}

/** Who was asked for the document of a slot, in a line each, for the office. */
export function AskedOf({ of, files, place }: { of: string; files: number; place: string }) {
  const its = useIssuers(of, files).data?.filter((one) => one.place === place && one.state !== "come") ?? [];
  return its.map((one) => (
    <p key={one.id} className="issuers-line">
      {saidOf(one)}
    </p>
  ));
}

function saidOf(one: Asked): string {
  const values = { name: one.name, on: dayOf(one.made_at), by: day(one.wanted_by) };
  if (one.state === "come")
    return say("Came on {{on}} from {{from}}, straight to the office.", {
      on: dayOf(one.came_at ?? one.made_at),
      from: one.came_from,
    });
  if (one.state === "late")
    return say("Late: asked of {{name}} on {{on}}, wanted by {{by}}, and it has not come.", values);
  if (one.state === "link over")
    return say("Asked of {{name}} on {{on}}; the link is too old now. Send a new one.", values);
  if (one.state === "opened") return say("Asked of {{name}} on {{on}} and opened; wanted by {{by}}.", values);
  return say("Asked of {{name}} on {{on}}, not opened yet; wanted by {{by}}.", values);
}

function OneIssuer({ one, of, own }: { one: Asked; of: string; own: boolean }) {
  const queries = useQueryClient();
  const params = { path: { request: one.id } };
  const after = { onSettled: () => queries.invalidateQueries({ queryKey: ["issuers", of] }) };
  const again = useMutation({
    mutationFn: () => ask(api.POST("/api/issuers/{request}/again", { params })),
    ...after,
  });
  const back = useMutation({ mutationFn: () => ask(api.DELETE("/api/issuers/{request}", { params })), ...after });
  return (
    <li className={one.state === "late" || one.state === "link over" ? "late" : one.state === "come" ? "come" : ""}>
      <p>
        {saidOf(one)} <span className="second">{one.mail}</span>
      </p>
      {one.state !== "come" && one.reminded_at && (
        <p className="second">{say("Asked again on {{on}}.", { on: dayOf(one.reminded_at) })}</p>
      )}
      <ProblemNote error={again.error ?? back.error} />
      {own && one.state !== "come" && (
        <p>
          <button type="button" className="jc-link" disabled={again.isPending} onClick={() => again.mutate()}>
            {say("Send a new link")}
            <span className="jc-hidden"> {say("to {{name}}", { name: one.name })}</span>
          </button>{" "}
          <AskFirst
            question={say("Ask {{name}} no more? The link then works no longer, and {{name}} is told.", {
              name: one.name,
            })}
            yes={say("Ask no more")}
            onYes={() => back.mutate()}
            className="jc-link"
          >
            {say("Ask no more")}
            <span className="jc-hidden">: {one.name}</span>
          </AskFirst>
        </p>
      )}
    </li>
  );
}

function AskIssuer({ of, place, onDone }: { of: string; place: Place; onDone: () => void }) {
  const queries = useQueryClient();
  const [who, setWho] = useState(NOBODY);
  const put = useMutation({
    mutationFn: () => {
      const { wanted_by, ...rest } = who;
      return ask(api.POST("/api/issuers", { body: { of, slot: place.slot, wanted_by: wanted_by || null, ...rest } }));
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["issuers", of] });
      onDone();
    },
  });
  const field = (name: "name" | "mail" | "words") => ({
    value: who[name],
    onChange: (e: { target: { value: string } }) => setWho({ ...who, [name]: e.target.value }),
  });
  return (
    <form
      className="issuers-form"
      aria-label={say("Who sends it: {{title}}", { title: place.title })}
      onSubmit={(e) => {
        e.preventDefault();
        put.mutate();
      }}
    >
      <p className="second">
        {say(
          "They get a link by mail that works once, without an account. What they send goes straight to the office; you see that it has come, and what it says only if they allow it.",
        )}
      </p>
      <ProblemNote error={put.error} />
      <div className="issuers-fields">
        <TextInput label={say("Name of the person or the office")} required maxLength={120} {...field("name")} />
        <TextInput label={say("Mail address")} type="email" required maxLength={200} {...field("mail")} />
        <DatePickerInput
          label={say("Wanted by (two weeks, if empty)")}
          value={who.wanted_by || null}
          onChange={(chosen) => setWho({ ...who, wanted_by: chosen ? String(chosen) : "" })}
          minDate={new Date()}
          valueFormat="ddd D MMM YYYY"
          firstDayOfWeek={1}
          clearable
        />
      </div>
      <Textarea
        label={say("A few words to them, if you like")}
        autosize
        minRows={2}
        maxLength={1000}
        {...field("words")}
      />
      <p>
        <button type="submit" className="jc-button" disabled={put.isPending}>
          {say("Send the link")}
        </button>{" "}
        <button type="button" className="jc-link" onClick={onDone}>
          {say("cancel")}
        </button>
      </p>
    </form>
  );
}
