// How far the reading of the files is, where something waits for it.
import { say, things } from "../shared/text";
import { isBeingRead } from "./draft";

/** How far the reading of the files is: filing waits for it, a minute at the most. */
export function BeingRead({ files, waits }: { files: { opens: string }[]; waits: boolean }) {
  const left = files.filter(isBeingRead).length;
  if (left === 0) return null;
  const read = say("{{read}} of {{files}} read", { read: files.length - left, files: things(files.length, "file") });
  return (
    <p role="status" className="second">
      {waits
        ? say("{{read}}. It is filed when the others are read, in a minute at the latest.", { read })
        : say("{{read}}. You can file now: the office waits for the others, a minute at the most.", { read })}
    </p>
  );
}
