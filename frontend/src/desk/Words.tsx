// A form of one field that opens on the desk: words of a point, or the reason of a judgement.
import { type ReactNode, useState } from "react";
import { useOpened } from "../shared/keys";
import { say } from "../shared/text";
import "./rule.css";

/** `least` letters are needed. With `byEnter`, Enter gives it; Escape closes it. */
export function Words({
  label,
  give,
  first = "",
  least = 0,
  byEnter,
  className,
  onGive,
  onClose,
  children,
}: {
  label: string;
  give: string;
  first?: string;
  least?: number;
  byEnter?: boolean;
  className: string;
  onGive: (text: string) => void;
  onClose: () => void;
  children?: ReactNode;
}) {
  const [text, setText] = useState(first);
  const opened = useOpened<HTMLFormElement>();
  const enough = text.trim().length >= least;
  const submit = (e: { preventDefault: () => void }) => {
    e.preventDefault();
    if (enough) onGive(text);
  };
  return (
    <form
      {...opened}
      className={className}
      onSubmit={submit}
      onKeyDown={(e) => {
        if (e.key === "Escape") onClose();
        const inField = e.target instanceof HTMLTextAreaElement;
        if (byEnter && inField && e.key === "Enter" && !e.shiftKey) submit(e);
      }}
    >
      {children}
      <label htmlFor="desk-words">{label}</label>
      <textarea id="desk-words" value={text} onChange={(e) => setText(e.target.value)} rows={byEnter ? 2 : 4} />
      <button type="submit" className="jc-button small" disabled={!enough}>
        {give}
      </button>{" "}
      <button type="button" className="jc-link" onClick={onClose}>
        {say("cancel")}
      </button>
    </form>
  );
}
