// Which application to begin, and for whom.
import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask } from "../api/client";
import { say } from "../shared/text";
import { beginFor } from "./beginning";
import { BeginKind } from "./FindKind";

export function NewFiling() {
  return (
    <main className="jc-page">
      <h1>{say("New filing")}</h1>
      <p className="second">
        {say("Everything you type is kept. You can leave and come back; nothing is sent before you file it.")}
      </p>
      <ForWhom />
      <BeginKind level="h2" />
    </main>
  );
}

/** Whoever acts for others chooses for whom it is begun; oneself unless another is chosen. */
function ForWhom() {
  const acting = useQuery({ queryKey: ["acting-for"], queryFn: () => ask(api.GET("/api/acting-for")) });
  const [owner, setOwner] = useState("");
  useEffect(() => beginFor(owner), [owner]);
  if (!acting.data?.length) return null;
  const people = new Map(acting.data.map((one) => [one.owner, one.name]));
  return (
    <NativeSelect
      label={say("For whom?")}
      value={owner}
      onChange={(e) => setOwner(e.target.value)}
      data={[
        { value: "", label: say("for myself") },
        ...[...people].map(([value, name]) => ({ value, label: say("for {{name}}", { name }) })),
      ]}
      w={320}
      mb="md"
    />
  );
}
