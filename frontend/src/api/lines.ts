// An answer that comes line by line, each a JSON document: told as it comes.
import { tokenHeader } from "./client";

/** Ask for it, and call `told` with each document. Throws if it is refused or breaks off. */
export async function askLines<T>(url: string, told: (one: T) => void): Promise<void> {
  const answer = await fetch(url, { headers: tokenHeader() });
  if (!answer.ok || !answer.body) throw new Error(answer.statusText);
  let rest = "";
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const lines = (rest + part.value).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines.filter(Boolean)) told(JSON.parse(line));
  }
}
