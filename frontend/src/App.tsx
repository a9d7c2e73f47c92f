// Which place a person is in. A place that a role may not use is not there.
import { useQueryClient } from "@tanstack/react-query";
import { lazy, useEffect } from "react";
import { Navigate, Route, Routes } from "react-router";
import { SESSION_LOST } from "./api/client";
import { MyCases } from "./cases/MyCases";
import { Filing } from "./filing/Filing";
import { NewFiling } from "./filing/NewFiling";
import { Confirm } from "./people/Confirm";
import { useEvents } from "./shared/events";
import { Frame, PublicTop } from "./shared/Frame";
import { Skeleton } from "./shared/Notes";
import { Opens } from "./shared/Opens";
import { useSession } from "./shared/session";
import { Deliver } from "./signin/Deliver";
import { InvitedByLink } from "./signin/Invited";
import { NewPassword } from "./signin/Passwords";
import { SignIn } from "./signin/SignIn";
import { SignInAgain } from "./signin/SignInAgain";
import { Tray } from "./tray/Tray";

const ReadOver = lazy(() => import("./filing/ReadOver").then((m) => ({ default: m.ReadOver })));
const OthersOfDraft = lazy(() => import("./filing/Others").then((m) => ({ default: m.OthersOfDraft })));
const OthersOfCase = lazy(() => import("./filing/Others").then((m) => ({ default: m.OthersOfCase })));
const Pile = lazy(() => import("./filing/Pile").then((m) => ({ default: m.Pile })));
const Basket = lazy(() => import("./till/Basket").then((m) => ({ default: m.Basket })));
const Terminal = lazy(() => import("./till/Terminal").then((m) => ({ default: m.Terminal })));
const MyCase = lazy(() => import("./cases/MyCase").then((m) => ({ default: m.MyCase })));
const Desk = lazy(() => import("./desk/Desk").then((m) => ({ default: m.Desk })));
const WayIn = lazy(() => import("./wayin/WayIn").then((m) => ({ default: m.WayIn })));
const Register = lazy(() => import("./register/Register").then((m) => ({ default: m.Register })));
const Shelf = lazy(() => import("./rules/Shelf").then((m) => ({ default: m.Shelf })));
const CalendarEditor = lazy(() => import("./rules/CalendarEditor").then((m) => ({ default: m.CalendarEditor })));
const Editor = lazy(() => import("./rules/Editor").then((m) => ({ default: m.Editor })));
const Office = lazy(() => import("./office/Office").then((m) => ({ default: m.Office })));
const Figures = lazy(() => import("./figures/Figures").then((m) => ({ default: m.Figures })));
const Permit = lazy(() => import("./permits/Permit").then((m) => ({ default: m.Permit })));
const Check = lazy(() => import("./wayin/Check").then((m) => ({ default: m.Check })));
const Meetings = lazy(() => import("./meetings/Meetings").then((m) => ({ default: m.Meetings })));
const Meeting = lazy(() => import("./meetings/Meeting").then((m) => ({ default: m.Meeting })));
const Load = lazy(() => import("./people/Load").then((m) => ({ default: m.Load })));
const People = lazy(() => import("./people/People").then((m) => ({ default: m.People })));
const Counter = lazy(() => import("./counter/Counter").then((m) => ({ default: m.Counter })));
const Claim = lazy(() => import("./signin/Claim").then((m) => ({ default: m.Claim })));
const WhoLooked = lazy(() => import("./people/WhoLooked").then((m) => ({ default: m.WhoLooked })));
const Till = lazy(() => import("./till/Till").then((m) => ({ default: m.Till })));
const Closings = lazy(() => import("./till/Closings").then((m) => ({ default: m.Closings })));
const Money = lazy(() => import("./till/Money").then((m) => ({ default: m.Money })));
const Erasing = lazy(() => import("./people/Erasing").then((m) => ({ default: m.Erasing })));
const ClosedDays = lazy(() => import("./people/ClosedDays").then((m) => ({ default: m.ClosedDays })));
const PrintQueue = lazy(() => import("./tray/PrintQueue").then((m) => ({ default: m.PrintQueue })));
const Kept = lazy(() => import("./cases/Kept").then((m) => ({ default: m.Kept })));
const Account = lazy(() => import("./people/Account").then((m) => ({ default: m.Account })));
const Letter = lazy(() => import("./desk/Letter").then((m) => ({ default: m.Letter })));

export function App() {
  const session = useSession();
  const queries = useQueryClient();
  useEffect(() => {
    const lost = () => queries.invalidateQueries({ queryKey: ["session"] });
    window.addEventListener(SESSION_LOST, lost);
    return () => window.removeEventListener(SESSION_LOST, lost);
  }, [queries]);
  const may = session.data?.may;
  const applies = may?.pages.includes("my cases");
  useEvents(!!may);
  useEffect(() => {
    // the page that comes next is fetched while the first one is being read
    if (may) (applies ? import("./cases/MyCase") : import("./desk/Desk")).catch(() => undefined);
  }, [may, applies]);
  if (!session.data) return <Skeleton lines={6} />;
  if (!may)
    return (
      <Opens>
        <Routes>
          <Route element={<PublicTop office={session.data.office} />}>
            <Route path="/way-in/:kind" element={<WayIn />} />
            <Route path="/check/:code?" element={<Check />} />
            <Route path="/register" element={<Register />} />
            <Route path="/password/:secret" element={<NewPassword />} />
            <Route path="/claim" element={<Claim />} />
            <Route path="/invited/:secret" element={<InvitedByLink />} />
            <Route path="/deliver/:secret" element={<Deliver />} />
          </Route>
          <Route path="*" element={<SignIn session={session.data} />} />
        </Routes>
      </Opens>
    );
  return (
    <Frame>
      {session.ended && <SignInAgain was={session.data} />}
      <Confirm />
      <Opens>
        {applies ? (
          <Routes>
            <Route path="/" element={<Navigate to="/cases" replace />} />
            <Route path="/cases" element={<MyCases />} />
            <Route path="/cases/:reference" element={<MyCase />} />
            <Route path="/kept/:reference" element={<Kept />} />
            <Route path="/permits/:reference" element={<Permit />} />
            <Route path="/cases/:reference/pay" element={<Terminal />} />
            <Route path="/pay" element={<Basket />} />
            <Route path="/new" element={<NewFiling />} />
            <Route path="/way-in/:kind" element={<WayIn />} />
            <Route path="/check/:code?" element={<Check />} />
            <Route path="/register" element={<Register />} />
            <Route path="/account" element={<Account />} />
            <Route path="/password/:secret" element={<NewPassword />} />
            <Route path="/invited/:secret" element={<InvitedByLink />} />
            <Route path="/deliver/:secret" element={<Deliver />} />
            <Route path="/filing/:draft" element={<Filing />} />
            <Route path="/filing/:draft/read-over" element={<ReadOver />} />
            <Route path="/filing/:draft/pile" element={<Pile />} />
            <Route path="/filing/:draft/others" element={<OthersOfDraft />} />
            <Route path="/cases/:reference/others" element={<OthersOfCase />} />
            <Route path="/filing/:draft/:part" element={<Filing />} />
            <Route path="*" element={<Navigate to="/cases" replace />} />
          </Routes>
        ) : may.pages.includes("in-tray") ? (
          <Routes>
            <Route path="/" element={<Navigate to="/tray" replace />} />
            <Route path="/tray" element={<Tray />} />
            <Route path="/desk/:reference" element={<Desk />} />
            <Route path="/permits/:reference" element={<Permit />} />
            <Route path="/kept/:reference" element={<Kept />} />
            {may.pages.includes("load") && <Route path="/load" element={<Load />} />}
            {may.pages.includes("meetings") && <Route path="/meetings" element={<Meetings />} />}
            {may.pages.includes("meetings") && <Route path="/meetings/:meeting" element={<Meeting />} />}
            {may.pages.includes("people") && <Route path="/people" element={<People />} />}
            {may.pages.includes("counter") && (
              <>
                <Route path="/counter" element={<Counter />} />
                <Route path="/filing/:draft" element={<Filing />} />
                <Route path="/filing/:draft/read-over" element={<ReadOver />} />
                <Route path="/filing/:draft/pile" element={<Pile />} />
                <Route path="/filing/:draft/:part" element={<Filing />} />
              </>
            )}
            {may.pages.includes("till") && <Route path="/till" element={<Till />} />}
            {may.pages.includes("till") && <Route path="/till/closings" element={<Closings />} />}
            {may.pages.includes("money") && <Route path="/money" element={<Money />} />}
            {may.pages.includes("print") && <Route path="/print" element={<PrintQueue />} />}
            {may.pages.includes("office") && <Route path="/office" element={<Office />} />}
            {may.pages.includes("closed days") && <Route path="/closed-days" element={<ClosedDays />} />}
            {may.pages.includes("looks") && <Route path="/looks" element={<WhoLooked />} />}
            {may.pages.includes("figures") && <Route path="/figures" element={<Figures />} />}
            {may.pages.includes("rulebooks") && <Route path="/rules" element={<Shelf />} />}
            {may.pages.includes("rulebooks") && <Route path="/rules/calendar" element={<CalendarEditor />} />}
            {may.pages.includes("rulebooks") && <Route path="/rules/:edition" element={<Editor />} />}
            {may.pages.includes("erasing") && <Route path="/erasing" element={<Erasing />} />}
            <Route path="/check/:code?" element={<Check />} />
            <Route path="/register" element={<Register />} />
            <Route path="/account" element={<Account />} />
            <Route path="/password/:secret" element={<NewPassword />} />
            <Route path="/invited/:secret" element={<InvitedByLink />} />
            <Route path="/deliver/:secret" element={<Deliver />} />
            <Route path="/desk/:reference/letter" element={<Letter />} />
            <Route path="*" element={<Navigate to="/tray" replace />} />
          </Routes>
        ) : (
          <Routes>
            <Route path="/rules" element={<Shelf />} />
            <Route path="/rules/calendar" element={<CalendarEditor />} />
            <Route path="/rules/:edition" element={<Editor />} />
            <Route path="/check/:code?" element={<Check />} />
            <Route path="/register" element={<Register />} />
            <Route path="/account" element={<Account />} />
            <Route path="*" element={<Navigate to="/rules" replace />} />
          </Routes>
        )}
      </Opens>
    </Frame>
  );
}
