// What is told of a file besides its name: description, day, language, volume, and of which file it is the translation.
import { NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { DatePickerInput } from "@mantine/dates";
import "@mantine/dates/styles.css";
import { useState } from "react";
import { api, ask, problemOf } from "../api/client";
import type { DraftView } from "../api/views";
import { ProblemNote } from "../shared/Notes";
import { LANGUAGE, say } from "../shared/text";
import type { Work } from "./draft";
import "./documents.css";

type FileView = DraftView["files"][number];
const NOTHING = { description: "", dated: null as string | null, language: "", volume: 0, translates: "" };

export function TellOfFile({ work, id, file, others }: { work: Work; id: string; file: FileView; others: FileView[] }) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState<Partial<typeof NOTHING>>({});
  const [trouble, setTrouble] = useState<unknown>(null);
  const told = { ...NOTHING, ...file.attachment.told, ...typed };
  const at = problemOf(trouble).place;
  const said = (field: string) => (trouble && at === field ? problemOf(trouble).detail : undefined);
  // each language is called as the browser calls it
  const names = new Intl.DisplayNames([LANGUAGE], { type: "language" });
  async function keep() {
    try {
      await work.change((seen) =>
        ask(
          api.PUT("/api/drafts/{draft}/files/{attachment}", {
            params: { path: { draft: id, attachment: file.attachment.id } },
            headers: seen,
            body: told,
          }),
        ),
      );
      setTrouble(null);
      setTyped({});
      setOpen(false);
    } catch (error) {
      setTrouble(error);
    }
  }
  if (!open)
    return (
      <button type="button" className="jc-link filing-tell" onClick={() => setOpen(true)}>
        {file.attachment.told ? say("change what is told of it") : say("describe it")}
        <span className="jc-hidden"> {file.attachment.name}</span>
      </button>
    );
  return (
    <form
      className="filing-tell-form"
      aria-label={say("What is told of “{{name}}”", { name: file.attachment.name })}
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <TextInput
        label={say("Description")}
        value={told.description}
        error={said("description")}
        onChange={(e) => setTyped({ ...typed, description: e.target.value })}
      />
      <div className="filing-tell-pair">
        <DatePickerInput
          label={say("Its date")}
          value={told.dated}
          onChange={(d) => setTyped({ ...typed, dated: d ? String(d) : null })}
          valueFormat="D MMM YYYY"
          firstDayOfWeek={1}
          error={said("dated")}
          clearable
        />
        <NativeSelect
          label={say("Its language")}
          value={told.language}
          error={said("language")}
          onChange={(e) => setTyped({ ...typed, language: e.target.value })}
          data={[
            { value: "", label: say("not said") },
            ...(work.view?.form.file_languages ?? []).map((code) => ({ value: code, label: names.of(code) ?? code })),
          ]}
        />
        <NumberInput
          label={say("Volume")}
          description={say("Where it was too big for one file.")}
          value={told.volume || ""}
          min={1}
          max={99}
          allowDecimal={false}
          error={said("volume")}
          onChange={(n) => setTyped({ ...typed, volume: Number(n) || 0 })}
        />
        {others.length > 0 && (
          <NativeSelect
            label={say("Translation of")}
            value={told.translates}
            error={said("translates")}
            onChange={(e) => setTyped({ ...typed, translates: e.target.value })}
            data={[
              { value: "", label: say("none of these") },
              ...others.map((o) => ({ value: o.attachment.id, label: o.attachment.name })),
            ]}
          />
        )}
      </div>
      {trouble && !["description", "dated", "language", "volume", "translates"].includes(at) ? (
        <ProblemNote error={trouble} />
      ) : null}
      <p>
        <button type="submit" className="jc-button small">
          {say("Keep it")}
        </button>{" "}
        <button type="button" className="jc-link" onClick={() => setOpen(false)}>
          {say("Leave it")}
        </button>
      </p>
    </form>
  );
}
