// Documents: one slot after the other; drop a file, it is read as soon as it has arrived, and what was noticed stands beside it.
import { useRef, useState } from "react";
import { api, ask, problemOf } from "../api/client";
import type { SlotForm } from "../api/views";
import { Tab } from "../shared/Marks";
import { Findings } from "../shared/Notes";
import { size } from "../shared/say";
import { say } from "../shared/text";
import { isBeingRead, isLocked, saidAt, type Work } from "./draft";
import { Said } from "./Said";
import "./documents.css";
import "./filing.css";
import "./questions.css";

type Uploading = { name: string; trouble: string };

export function Documents({ work, id }: { work: Work; id: string }) {
  const view = work.view;
  if (!view) return null;
  return (
    <>
      <h1 tabIndex={-1}>{say("Documents")}</h1>
      <p className="second filing-intro">
        {say(
          "Drop a file on its slot, or choose it. It is read as soon as it has arrived, and you are told what the office will see in it.",
        )}
      </p>
      {view.form.slots
        .filter((slot) => !slot.item_label)
        .map((slot) => (
          <SlotBox key={slot.slot} work={work} id={id} slot={slot} />
        ))}
      {/* the slots of one person or one stall stand together */}
      {[...new Set(view.form.slots.map((slot) => slot.item_label).filter(Boolean))].map((item) => (
        <section key={item} className="filing-of-item" aria-label={item}>
          <h2>{item}</h2>
          {view.form.slots
            .filter((slot) => slot.item_label === item)
            .map((slot) => (
              <SlotBox key={slot.slot} work={work} id={id} slot={{ ...slot, title: slot.plain_title }} />
            ))}
        </section>
      ))}
    </>
  );
}

export function SlotBox({ work, id, slot, bare }: { work: Work; id: string; slot: SlotForm; bare?: boolean }) {
  const view = work.view;
  const [uploads, setUploads] = useState<Uploading[]>([]);
  const [share, setShare] = useState(0);
  const [over, setOver] = useState(false);
  const choose = useRef<HTMLInputElement>(null);
  if (!view) return null;
  const ref = `documents.${slot.slot}`;
  const requirement = view.assessment.requirements.find((r) => r.id === ref);
  const standing = requirement?.proposed ?? "not asked";
  const locked = isLocked(view, ref);
  const said = saidAt(view, ref);
  const asked = (requirement?.open || slot.optional) && !locked;
  const files = view.files.filter((f) => f.attachment.slot === slot.slot);

  async function send(list: FileList | File[]) {
    const chosen = [...list];
    setUploads(chosen.map((f) => ({ name: f.name, trouble: "" })));
    const troubles: Uploading[] = [];
    for (const [n, file] of chosen.entries()) {
      setShare(0);
      try {
        const { sendFile } = await import("../api/upload"); // fetched with the first file
        await sendFile(id, slot.slot, file, (share) => setShare(share));
        await work.draft.refetch();
      } catch (error) {
        troubles.push({ name: file.name, trouble: problemOf(error).detail });
      }
      setUploads([...troubles, ...chosen.slice(n + 1).map((f) => ({ name: f.name, trouble: "" }))]);
    }
    if (choose.current) choose.current.value = "";
  }

  function remove(attachment: string) {
    return work.change((seen) =>
      ask(
        api.DELETE("/api/drafts/{draft}/files/{attachment}", {
          params: { path: { draft: id, attachment } },
          headers: seen,
        }),
      ),
    );
  }

  return (
    <section
      id={ref}
      className={`filing-slot${over ? " over" : ""}${asked ? "" : " quiet"}${bare ? " bare" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        send(e.dataTransfer.files);
      }}
    >
      {!bare && (
        <>
          <Tab standing={standing === "to read" ? "met" : standing} given />
          <h2>
            {slot.title} <small>{say("art. {{article}}", { article: slot.article })}</small>
          </h2>
          <p>{slot.says}</p>
          <p className="second">
            {asked ? slot.accepts : requirement?.because}
            {files.length === 0 && standing === "to read" && `. ${requirement?.because}`}
            {standing === "not known yet" && ` ${requirement?.because}`}
          </p>
        </>
      )}
      {files.map((file) => {
        const findings = (requirement?.findings ?? []).filter((f) => f.file === file.attachment.id);
        return (
          <div key={file.attachment.id} className="filing-file">
            <p>
              <a href={`/api/drafts/${id}/files/${file.attachment.id}`} target="_blank" rel="noreferrer">
                <b>{file.attachment.name}</b>
              </a>{" "}
              <span className="second">
                {size(file.attachment.size)} · {file.said}
              </span>
              {!locked && (
                <button type="button" className="jc-link" onClick={() => remove(file.attachment.id)}>
                  {say("take it out")}
                  <span className="jc-hidden"> {file.attachment.name}</span>
                </button>
              )}
            </p>
            {requirement?.named && (
              <p className="second">
                {say("The office files it as")} <span className="mono">{requirement.named}</span>
              </p>
            )}
            {isBeingRead(file) ? (
              <p className="second" role="status">
                {say("It has arrived and is being read. You can go on meanwhile.")}
              </p>
            ) : findings.length > 0 ? (
              <Findings findings={findings} />
            ) : (
              said.length === 0 && <p className="filing-clean">{say("Read: nothing to object to")}</p>
            )}
          </div>
        );
      })}
      <Said view={view} place={ref} />
      {uploads.map((u, n) => (
        <p key={u.name} className={u.trouble ? "madder" : "second"} role={u.trouble ? "alert" : "status"}>
          {u.trouble ||
            (n === uploads.findIndex((other) => !other.trouble)
              ? say("{{name}} is being sent, {{percent}} % so far", { name: u.name, percent: Math.round(share * 100) })
              : say("{{name}} is sent next", { name: u.name }))}
        </p>
      ))}
      {locked && <p className="filing-waits">{say("Not asked about: it stays as it was filed.")}</p>}
      {asked && slot.delivered_by && (
        <p className="filing-waits">
          {say("{{delivered_by}} sends this straight to the office. You need not do anything here.", {
            delivered_by: slot.delivered_by,
          })}
        </p>
      )}
      {(asked || bare) && !slot.delivered_by && (
        <p className="filing-drop">
          {say("Drop a file here, or")}{" "}
          <button type="button" className="jc-link" onClick={() => choose.current?.click()}>
            {say("choose a file")}
            <span className="jc-hidden"> {say("for {{title}}", { title: slot.title })}</span>
          </button>
          <input
            ref={choose}
            type="file"
            multiple
            className="jc-hidden"
            tabIndex={-1}
            aria-label={say("File for {{title}}", { title: slot.title })}
            onChange={(e) => e.target.files && e.target.files.length > 0 && send(e.target.files)}
          />
        </p>
      )}
    </section>
  );
}
