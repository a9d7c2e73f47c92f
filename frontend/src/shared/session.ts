// Who is signed in.
import { useQuery } from "@tanstack/react-query";
import { api, ask, type Schemas, setToken } from "../api/client";
import { beginWith } from "./events";
import { setZone } from "./say";

/** Who is signed in now; from then on every change carries the token of this session. */
export async function fetchSession() {
  const session = await ask(api.GET("/api/session"));
  setToken(session.csrf);
  setZone(session.zone);
  if (session.may) beginWith(session.events);
  return session;
}

/** Who was signed in last on this page: signing out leaves the page, so a session that ends under it is asked for again over it. */
let kept: Schemas["SessionOut"] | undefined;

/**
 * Who is signed in. While a session has ended and the password is asked over the page, it is still who was: nothing beneath is taken off
 * the screen, and no word that was typed is lost. `ended` tells that.
 */
export function useSession() {
  const found = useQuery({ queryKey: ["session"], queryFn: fetchSession, staleTime: 60_000 });
  if (found.data?.may) kept = found.data;
  const ended = !!found.data && !found.data.may && kept !== undefined;
  return { ...found, data: ended ? kept : found.data, ended };
}
