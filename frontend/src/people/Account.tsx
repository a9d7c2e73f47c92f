// The own account: what filings begin with, the password.
import { NativeSelect, PasswordInput, TextInput } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { useSession } from "../shared/session";
import { say } from "../shared/text";
import { Contact } from "./Contact";
import { Firms } from "./Firms";
import { Mandates } from "./Mandates";
import { Tokens } from "./Tokens";
import "../signin/signin.css";

export function Account() {
  const session = useSession();
  const queries = useQueryClient();
  const guest = session.data?.person?.guest ?? false;
  const [before, setBefore] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => ask(api.POST("/api/session/password", { body: { old: before, new: fresh } })),
    onSuccess: () => {
      setBefore("");
      setFresh("");
      queries.invalidateQueries({ queryKey: ["session"] });
    },
  });
  const others = useMutation({ mutationFn: () => ask(api.DELETE("/api/session/others")) });
  return (
    <main className="jc-page">
      <h1>{session.data?.person?.name}</h1>
      <p className="second">{session.data?.person?.role}</p>
      {session.data?.may?.moves === "applicant" && <OwnProfile />}
      {session.data?.may?.moves === "applicant" && !guest && <Firms />}
      {!guest && <Contact />}
      {session.data?.may?.moves === "applicant" && !guest && <Mandates />}
      <form
        className="passwords"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate();
        }}
      >
        <h2>{guest ? say("Set a password") : say("Change the password")}</h2>
        {guest && (
          <p>{say("Then this is an account of your own: you can fill in, attach and have filings of your own.")}</p>
        )}
        {!guest && (
          <PasswordInput
            label={say("Old password")}
            autoComplete="current-password"
            value={before}
            onChange={(e) => setBefore(e.target.value)}
          />
        )}
        <PasswordInput
          label={say("New password")}
          description={say("At least 10 characters.")}
          autoComplete="new-password"
          value={fresh}
          onChange={(e) => setFresh(e.target.value)}
        />
        <ProblemNote error={change.error} />
        <button type="submit" className="jc-button" disabled={!fresh || change.isPending}>
          {guest ? say("Set it") : say("Change it")}
        </button>
        {change.isSuccess && <p role="status">{say("Changed. Every other window of yours was signed out.")}</p>}
      </form>
      {!guest && <Tokens />}
      {session.data?.may?.moves === "applicant" && (
        <section className="passwords" aria-label={say("What is held about you")}>
          <h2>{say("What is held about you")}</h2>
          <p className="second">
            {say("Your account, your drafts, your cases with every file, what was mailed to you and who looked at it.")}
          </p>
          <a className="jc-button plain" href="/api/session/copy" download>
            {say("Download it (ZIP)")}
          </a>
        </section>
      )}
      <section className="passwords" aria-label={say("Other windows")}>
        <h2>{say("Other windows")}</h2>
        <p className="second">{say("If you signed in somewhere else and forgot to sign out, do it from here.")}</p>
        <ProblemNote error={others.error} />
        <button type="button" className="jc-button plain" disabled={others.isPending} onClick={() => others.mutate()}>
          {say("Sign out everywhere else")}
        </button>
        {others.isSuccess && <p role="status">{say("Signed out everywhere else.")}</p>}
      </section>
    </main>
  );
}

const EMPTY = { address: "", telephone: "", born: "", firm: "", language: "", letters: "" };

/** What a new filing begins with; each answer says that it came from here, and may be changed there. */
function OwnProfile() {
  const cache = useQueryClient();
  const told = useQuery({ queryKey: ["profile"], queryFn: () => ask(api.GET("/api/session/profile")) });
  const [typed, setTyped] = useState<Partial<typeof EMPTY>>({});
  const own = { ...EMPTY, ...told.data, ...typed };
  const keep = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/session/profile", {
          body: {
            address: own.address,
            telephone: own.telephone,
            born: own.born || null,
            firm: own.firm,
            language: own.language,
            letters: own.letters,
          },
        }),
      ),
    onSuccess: (kept) => {
      cache.setQueryData(["profile"], kept);
      setTyped({});
    },
  });
  return (
    <form
      className="passwords"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <h2>{say("What your filings begin with")}</h2>
      <p className="second">
        {say(
          "The name, {{name}}, and what stands here are filled in when you begin a filing. You can change them there.",
          { name: told.data?.name },
        )}
      </p>
      <TextInput
        label={say("Address")}
        autoComplete="street-address"
        value={own.address}
        onChange={(e) => setTyped({ ...typed, address: e.target.value })}
      />
      <TextInput
        label={say("Telephone")}
        autoComplete="tel"
        value={own.telephone}
        onChange={(e) => setTyped({ ...typed, telephone: e.target.value })}
      />
      <DatePickerInput
        label={say("Date of birth")}
        value={own.born || null}
        onChange={(d) => setTyped({ ...typed, born: d ? String(d) : "" })}
        valueFormat="D MMM YYYY"
        defaultLevel="decade"
        firstDayOfWeek={1}
        clearable
      />
      <TextInput
        label={say("Firm, if you file for one")}
        autoComplete="organization"
        value={own.firm}
        onChange={(e) => setTyped({ ...typed, firm: e.target.value })}
      />
      <NativeSelect
        label={say("Language in which you answer")}
        value={own.language}
        onChange={(e) => setTyped({ ...typed, language: e.target.value })}
        data={[
          { value: "", label: say("not said") },
          { value: "en", label: say("English") },
          { value: "pt", label: say("Portuguese") },
          { value: "fr", label: say("French") },
        ]}
      />
      <NativeSelect
        label={say("How letters reach you")}
        value={own.letters}
        onChange={(e) => setTyped({ ...typed, letters: e.target.value })}
        data={[
          { value: "", label: say("not said") },
          { value: "mail", label: say("By mail to my address") },
          { value: "print", label: say("Printed, by post") },
        ]}
      />
      <ProblemNote error={keep.error} />
      <button type="submit" className="jc-button" disabled={!told.data || keep.isPending}>
        {say("Keep it")}
      </button>
      {keep.isSuccess && Object.keys(typed).length === 0 && <p role="status">{say("Kept.")}</p>}
    </form>
  );
}
