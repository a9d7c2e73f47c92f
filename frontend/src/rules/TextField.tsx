// The text of an edition, typed in CodeMirror: completed by the schema, with what the check says at its line.
import { autocompletion, type CompletionContext, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, indentUnit, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { highlightSelectionMatches, search, searchKeymap } from "@codemirror/search";
import { EditorState } from "@codemirror/state";
import { EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { type Ref, useEffect, useImperativeHandle, useRef } from "react";
import { api, ask, type Schemas } from "../api/client";
import { say } from "../shared/text";

export type TextField = { goTo: (line: number) => void; put: (text: string) => void };

const COLOURS = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: "var(--petrol)", fontWeight: "600" },
  { tag: tags.comment, color: "var(--ink-2)", fontStyle: "italic" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--moss)" },
]);

/** What may stand at the place that is typed; keys come with their colon. */
async function complete(context: CompletionContext) {
  const word = context.matchBefore(/[\w-]*/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  const line = context.state.doc.lineAt(context.pos);
  const found = await ask(
    api.POST("/api/rules/completions", {
      body: { text: context.state.doc.toString(), line: line.number, column: word.from - line.from },
    }),
  ).catch(() => []);
  return {
    from: word.from,
    options: found.map((one) => ({
      label: one.word,
      apply: one.key ? `${one.word}: ` : one.word,
      type: one.key ? "property" : "constant",
      detail: one.about,
    })),
    validFor: /^[\w-]*$/,
  };
}

export function TextField({
  text,
  messages,
  readOnly,
  onChange,
  ref,
}: {
  text: string;
  messages: Schemas["LineMessage"][];
  readOnly: boolean;
  onChange: (text: string) => void;
  ref: Ref<TextField>;
}) {
  const box = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const told = useRef(onChange);
  told.current = onChange;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once; it keeps its own text
  useEffect(() => {
    if (!box.current) return;
    const made = new EditorView({
      parent: box.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          highlightActiveLine(),
          history(),
          yaml(),
          indentUnit.of("  "),
          syntaxHighlighting(COLOURS),
          lintGutter(),
          search({ top: true }),
          highlightSelectionMatches(),
          autocompletion({ override: [complete] }),
          keymap.of([...completionKeymap, ...searchKeymap, ...historyKeymap, ...defaultKeymap, indentWithTab]),
          EditorState.readOnly.of(readOnly),
          EditorView.contentAttributes.of({ "aria-label": say("Text of the edition"), tabindex: "0" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) told.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, [readOnly]);
  useEffect(() => {
    const { current } = view;
    if (!current) return;
    const { doc } = current.state;
    const found = messages.map((message) => {
      const line = doc.line(Math.min(Math.max(message.line, 1), doc.lines));
      const indent = line.text.length - line.text.trimStart().length;
      return {
        from: line.from + indent,
        to: Math.max(line.to, line.from + indent),
        severity: message.fault ? ("error" as const) : ("info" as const),
        message: message.text,
      };
    });
    current.dispatch(
      setDiagnostics(
        current.state,
        found.toSorted((a, b) => a.from - b.from),
      ),
    );
  }, [messages]);
  useImperativeHandle(ref, () => ({
    put: (fresh: string) => {
      const { current } = view;
      if (!current) return;
      const was = current.state.doc.toString();
      let [from, end] = [0, 0];
      while (from < was.length && was[from] === fresh[from]) from++;
      const most = Math.min(was.length, fresh.length) - from;
      while (end < most && was[was.length - 1 - end] === fresh[fresh.length - 1 - end]) end++;
      current.dispatch({
        changes: { from, to: was.length - end, insert: fresh.slice(from, fresh.length - end) },
      });
    },
    goTo: (line: number) => {
      const { current } = view;
      if (!current) return;
      const at = current.state.doc.line(Math.min(Math.max(line, 1), current.state.doc.lines));
      current.dispatch({
        selection: { anchor: at.from },
        effects: EditorView.scrollIntoView(at.from, { y: "center" }),
      });
      current.focus();
    },
  }));
  return <div ref={box} className="rules-codemirror" />;
}
