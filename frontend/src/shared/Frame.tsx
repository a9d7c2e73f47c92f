// The top of every page: the mark, the places of the role, the search, who is signed in.
import { Popover } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { Link, NavLink, Outlet, useLocation, useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { forgetUploads } from "../api/forget";
import { notArrived, takeUp } from "../api/sending";
import { ActingAs } from "./ActingAs";
import { Dialog } from "./Dialog";
import { useHotkey } from "./keys";
import { Stamp } from "./Marks";
import { ProblemNote } from "./Notes";
import { useSession } from "./session";
import { say, things } from "./text";
import "./frame.css";

/** Where each page stands, and what it is called; which of them a role may go to comes with the session. */
const PAGES: [Schemas["MayOut"]["pages"][number], string, string][] = [
  ["my cases", "/cases", say("My cases")],
  ["new filing", "/new", say("New filing")],
  ["in-tray", "/tray", "In-tray"],
  ["counter", "/counter", say("Counter")],
  ["till", "/till", say("Till")],
  ["load", "/load", say("Who has what")],
  ["meetings", "/meetings", say("Meetings")],
  ["people", "/people", say("People")],
  ["money", "/money", say("Money")],
  ["print", "/print", say("Print")],
  ["closed days", "/closed-days", say("Closed days")],
  ["erasing", "/erasing", say("Erasing")],
  ["looks", "/looks", say("Who looked")],
  ["rulebooks", "/rules", say("Rulebooks")],
  ["figures", "/figures", say("Figures")],
  ["office", "/office", say("Condition and settings")],
  ["register", "/register", say("Public register")],
];

/** What is not gone to every hour stands behind one button, as soon as there are so many of it. */
const OFFICE: (typeof PAGES)[number][0][] = [
  "load",
  "meetings",
  "people",
  "money",
  "closed days",
  "erasing",
  "looks",
  "rulebooks",
  "figures",
  "office",
  "register",
];
const MANY = 4;

export function Mark() {
  return (
    <svg className="jc-mark" viewBox="0 0 20 20" aria-hidden="true">
      <path className="jc-mark-head" d="M0 7a7 7 0 0 1 7-7h6a7 7 0 0 1 7 7v10a3 3 0 0 1-3 3H3a3 3 0 0 1-3-3z" />
      <path className="jc-mark-smile" d="M4.5 8.500c2 4.500 9 4.500 11 0" />
    </svg>
  );
}

export function Frame({ children }: { children: ReactNode }) {
  const session = useSession();
  const location = useLocation();
  const person = session.data?.person;
  const may = session.data?.may;
  const office = may?.pages.includes("in-tray");
  const all = PAGES.filter(([page]) => may?.pages.includes(page));
  const inOffice = all.filter(([page]) => OFFICE.includes(page));
  const behind = inOffice.length >= MANY ? inOffice : [];
  const places = all.filter((place) => !behind.includes(place));
  const onDesk = location.pathname.startsWith("/desk");

  // what did not arrive when the page was left is taken up by whoever chose it, and by nobody else
  const id = person?.id;
  useEffect(() => {
    if (id) takeUp(id);
  }, [id]);

  const [asked, { open: askFirst, close: stay }] = useDisclosure(false);
  const leave = useMutation({
    mutationFn: async () => {
      await ask(api.DELETE("/api/session"));
      await forgetUploads();
    },
    onSuccess: () => window.location.assign("/"), // nothing of this person stays in the window
    onSettled: stay,
  });

  return (
    <>
      <a className="jc-skip" href="#main">
        {say("To the page")}
      </a>
      <header className="jc-top">
        <Link to="/" className="jc-brand">
          <Mark /> {say("Jolly Clerk")}
        </Link>
        <nav aria-label={say("Places")}>
          {places.map(([, to, label]) => (
            <NavLink key={to} to={to} className="jc-place">
              {label}
            </NavLink>
          ))}
          {office && onDesk && (
            <span className="jc-place active" aria-current="page">
              {say("Desk")}
            </span>
          )}
          {behind.length > 0 && <OfficePlaces places={behind} />}
        </nav>
        <div className="jc-top-right">
          {office && <Find />}
          {person && (
            <Link to="/account" className="jc-who">
              {person.name}
            </Link>
          )}
          <ActingAs />
          <button type="button" className="jc-leave" onClick={() => (notArrived() > 0 ? askFirst() : leave.mutate())}>
            {say("Sign out")}
          </button>
          <Dialog
            title={say("{{files}} not arrived yet: sign out and forget them?", { files: things(notArrived(), "file") })}
            opened={asked}
            onClose={stay}
          >
            <button type="button" className="jc-button" onClick={() => leave.mutate()}>
              {say("Sign out")}
            </button>{" "}
            <button type="button" className="jc-button plain" data-autofocus onClick={stay}>
              {say("Stay")}
            </button>
          </Dialog>
        </div>
      </header>
      <ProblemNote error={leave.error} />
      <div id="main">{children}</div>
    </>
  );
}

/** The places of the office that are not gone to every hour, behind one button. */
function OfficePlaces({ places }: { places: typeof PAGES }) {
  const [opened, { toggle, close }] = useDisclosure(false);
  const { pathname } = useLocation();
  const here = places.find(([, to]) => pathname.startsWith(to));
  return (
    <Popover opened={opened} onChange={close} position="bottom-start" offset={0} trapFocus returnFocus>
      <Popover.Target>
        <button
          type="button"
          className={`jc-place jc-office${here ? " active" : ""}`}
          aria-expanded={opened}
          onClick={toggle}
        >
          {here ? here[2] : say("Office")} <span aria-hidden="true">▾</span>
        </button>
      </Popover.Target>
      <Popover.Dropdown className="jc-office-places">
        {places.map(([, to, label]) => (
          <NavLink key={to} to={to} onClick={close}>
            {label}
          </NavLink>
        ))}
      </Popover.Dropdown>
    </Popover>
  );
}

/** The top of a page that anybody can see. */
export function PublicTop({ office }: { office: string }) {
  return (
    <>
      <header className="jc-top">
        <Link to="/" className="jc-brand">
          <Mark /> {say("Jolly Clerk")}
        </Link>
        <span className="jc-place">{office}</span>
        <div className="jc-top-right">
          <Link to="/" className="jc-leave">
            {say("Sign in")}
          </Link>
        </div>
      </header>
      <Outlet />
    </>
  );
}

function Find() {
  const [words, setWords] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["search", words],
    queryFn: () => ask(api.GET("/api/search", { params: { query: { words } } })),
    enabled: words.trim().length > 1,
  });
  useHotkey("f", () => field.current?.focus());
  const rows = words.trim().length > 1 ? (found.data ?? []) : [];
  function open(row: { reference: string; kept: boolean }) {
    setWords("");
    field.current?.blur(); // the keys are the desk's from here on
    navigate(row.kept ? `/kept/${row.reference}` : `/desk/${row.reference}`);
  }
  return (
    <search className="jc-find">
      <input
        ref={field}
        aria-label={say("Find a case, person or place")}
        placeholder={say("Find a case, person, place…")}
        value={words}
        onChange={(e) => setWords(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") {
            setWords("");
            field.current?.blur();
          }
          if (e.key === "Enter" && rows[0]) open(rows[0]);
        }}
      />
      <kbd>F</kbd>
      {words.trim().length > 1 && (
        <ul className="jc-found">
          {rows.map((row) => (
            <li key={row.reference}>
              <button type="button" onClick={() => open(row)}>
                <span className="mono">{row.reference}</span> {row.title}{" "}
                {!row.title.includes(row.applicant) && <small>{row.applicant}</small>} <Stamp state={row.state} small />
              </button>
            </li>
          ))}
          {found.isSuccess && rows.length === 0 && <li className="jc-none">{say("No case matches.")}</li>}
        </ul>
      )}
    </search>
  );
}
