// Who is signed in.
import { useQuery } from "@tanstack/react-query";
import { api, ask, setToken } from "../api/client";
import { setZone } from "./say";

export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await ask(api.GET("/api/session"));
      setToken(session.csrf);
      setZone(session.zone);
      return session;
    },
    staleTime: 60_000,
  });
}
