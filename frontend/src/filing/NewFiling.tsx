// Which application to begin.
import { say } from "../shared/text";
import { BeginKind } from "./FindKind";

export function NewFiling() {
  return (
    <main className="jc-page">
      <h1>{say("New filing")}</h1>
      <p className="second">
        {say("Everything you type is kept. You can leave and come back; nothing is sent before you file it.")}
      </p>
      <BeginKind level="h2" />
    </main>
  );
}
