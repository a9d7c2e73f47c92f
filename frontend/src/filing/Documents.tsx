// Documents: one slot after the other; drop a file, it is read as soon as it has arrived, and what was noticed stands beside it.
import { api, ask, type Schemas } from "../api/client";
import { sendFiles } from "../api/sending";
import type { SlotForm } from "../api/views";
import { ChooseFiles } from "../shared/ChooseFiles";
import { Tab } from "../shared/Marks";
import { Findings } from "../shared/Notes";
import { size } from "../shared/say";
import { useSession } from "../shared/session";
import { say, things } from "../shared/text";
import { ByPost } from "./ByPost";
import { DropAll } from "./DropAll";
import {
  contradicted,
  isBeingRead,
  isLocked,
  isSealed,
  notAskedFor,
  saidAt,
  staysAsFiled,
  type Work,
  whyItStays,
} from "./draft";
import { IssuersOf } from "./Issuers";
import { OnTheirWay } from "./OnTheirWay";
import { JoinFiles, RemakeFile } from "./Remake";
import { Said } from "./Said";
import { TakeAll } from "./TakeAll";
import { TellOfFile } from "./TellOfFile";
import { useDrop } from "./useDrop";
import "./documents.css";
import "./filing.css";
import "./questions.css";

type Swapped = Schemas["Swapped"];

export function Documents({ work, id }: { work: Work; id: string }) {
  const view = work.view;
  if (!view) return null;
  const left = notAskedFor(view);
  // where something is added to a case, what was filed stays as it is and is only told beside
  const slots = view.form.slots.filter((slot) => !view.adding || !staysAsFiled(view, `documents.${slot.slot}`));
  const notAsked = slots.filter((slot) => left.has(`documents.${slot.slot}`));
  return (
    <>
      <h1 tabIndex={-1}>{say("Documents")}</h1>
      <p className="second filing-intro">
        {say(
          "Drop a file on its slot, or choose it. It is read as soon as it has arrived, and you are told what the office will see in it.",
        )}
      </p>
      {!isLocked(view, "documents") && (
        <>
          <DropAll id={id} work={work} />
          <TakeAll work={work} id={id} />
        </>
      )}
      {slots
        .filter((slot) => !slot.item_label && !notAsked.includes(slot))
        .map((slot) => (
          <SlotBox key={slot.slot} work={work} id={id} slot={slot} />
        ))}
      {/* the slots of one person or one stall stand together */}
      {[...new Set(slots.filter((slot) => !notAsked.includes(slot)).map((slot) => slot.item_label))]
        .filter(Boolean)
        .map((item) => (
          <section key={item} className="filing-of-item" aria-label={item}>
            <h2>{item}</h2>
            {slots
              .filter((slot) => slot.item_label === item && !notAsked.includes(slot))
              .map((slot) => (
                <SlotBox key={slot.slot} work={work} id={id} slot={{ ...slot, title: slot.plain_title }} />
              ))}
          </section>
        ))}
      {notAsked.length > 0 && (
        <details className="filing-not-asked">
          <summary>
            {say("{{documents}} not asked for, and why", { documents: things(notAsked.length, "document") })}
          </summary>
          {notAsked.map((slot) => (
            <SlotBox key={slot.slot} work={work} id={id} slot={slot} />
          ))}
        </details>
      )}
    </>
  );
}

export function SlotBox({ work, id, slot, bare }: { work: Work; id: string; slot: SlotForm; bare?: boolean }) {
  const view = work.view;
  const person = useSession().data?.person?.id ?? "";
  const send = (list: File[]) => sendFiles(person, id, slot.slot, list);
  const { over, zone } = useDrop(send);
  if (!view) return null;
  const ref = `documents.${slot.slot}`;
  const requirement = view.assessment.requirements.find((r) => r.id === ref);
  const standing = requirement?.proposed ?? "not asked";
  const locked = isLocked(view, ref);
  const said = saidAt(view, ref);
  const asked = (requirement?.open || slot.optional) && !locked;
  const files = view.files.filter((f) => f.attachment.slot === slot.slot);
  const posted = view.dossier.dockets?.some((d) => d.slot === slot.slot);
  const own = files.filter((f) => !f.attachment.issuer);

  const putBack = (attachment: string) =>
    work.change((seen) =>
      ask(
        api.POST("/api/drafts/{draft}/files/{attachment}/undo", {
          params: { path: { draft: id, attachment } },
          headers: seen,
        }),
      ),
    );

  const exchange = ({ first, second }: Swapped) =>
    work.change((seen) =>
      ask(
        api.POST("/api/drafts/{draft}/exchanged", {
          params: { path: { draft: id } },
          headers: seen,
          body: { first, second },
        }),
      ),
    );

  async function remove({ id: attachment, name }: { id: string; name: string }) {
    const params = { path: { draft: id, attachment } };
    await work.change((seen) => ask(api.DELETE("/api/drafts/{draft}/files/{attachment}", { params, headers: seen })));
    work.undo.offer({ what: say("“{{name}}”", { name }), back: () => putBack(attachment) });
  }

  return (
    <section
      id={ref}
      className={`filing-slot${over ? " over" : ""}${asked ? "" : " quiet"}${bare ? " bare" : ""}`}
      {...zone}
    >
      {!bare && (
        <>
          <Tab
            standing={
              files.length > 0 && contradicted(said)
                ? (contradicted(said) ?? standing)
                : standing === "to read"
                  ? "met"
                  : (slot.delivered_by || posted) && standing === "wanting"
                    ? "to read"
                    : standing
            }
            given
          />
          <h2>
            {slot.title} <small>{say("art. {{article}}", { article: slot.article })}</small>
          </h2>
          <p>{slot.says}</p>
          <p className="second">
            {asked ? slot.accepts : requirement?.because}
            {files.length === 0 && standing === "to read" && `. ${requirement?.because}`}
            {standing === "not known yet" && `${asked ? "." : ""} ${requirement?.because}`}
          </p>
        </>
      )}
      {files.map((file) => {
        const findings = (requirement?.findings ?? []).filter((f) => f.file === file.attachment.id);
        const swap = view.swapped.find((s) => [s.first, s.second].includes(file.attachment.id));
        return (
          <div key={file.attachment.id} className="filing-file">
            <p>
              {isSealed(file) ? (
                <b>{file.attachment.name}</b>
              ) : (
                <a href={`/api/drafts/${id}/files/${file.attachment.id}`} target="_blank" rel="noreferrer">
                  <b>{file.attachment.name}</b>
                </a>
              )}{" "}
              <span className="second">
                {size(file.attachment.size)} · {file.said}
              </span>
              {!locked && !file.attachment.issuer && (
                <button type="button" className="jc-link" onClick={() => remove(file.attachment)}>
                  {say("remove")}
                  <span className="jc-hidden"> {file.attachment.name}</span>
                </button>
              )}
            </p>
            {requirement?.named && (
              <p className="second">
                {say("The office files it as")} <span className="mono">{requirement.named}</span>
              </p>
            )}
            {isSealed(file) ? (
              <p className="second">{say("It went straight to the office, which alone looks into it.")}</p>
            ) : isBeingRead(file) ? (
              <p className="second" role="status">
                {say("It has arrived and is being read. You can go on meanwhile.")}
              </p>
            ) : findings.length > 0 ? (
              <Findings findings={findings} />
            ) : (
              said.length === 0 && <p className="filing-clean">{say("Read: nothing to object to")}</p>
            )}
            {!locked && !file.attachment.issuer && (
              <TellOfFile work={work} id={id} file={file} others={own.filter((o) => o !== file)} />
            )}
            {!locked && !file.attachment.issuer && <RemakeFile work={work} id={id} file={file} />}
            {swap && !locked && (
              <p>
                <button type="button" className="jc-button small" onClick={() => exchange(swap)}>
                  {say("Exchange them")}
                </button>
              </p>
            )}
          </div>
        );
      })}
      {!locked && own.length > 1 && <JoinFiles work={work} id={id} files={own} />}
      <Said view={view} place={ref} />
      {view.replaced
        .filter((old) => old.slot === slot.slot)
        .map((old) => (
          <p key={old.id} className="second">
            {say("“{{name}}” was replaced.", { name: old.name })}{" "}
            <button type="button" className="jc-link" onClick={() => putBack(old.id)}>
              {say("Keep it as well")}
            </button>
          </p>
        ))}
      <OnTheirWay draft={id} slot={slot.slot} />
      {staysAsFiled(view, ref) && <p className="filing-waits">{whyItStays(view, ref)}</p>}
      {asked && slot.delivered_by && files.length === 0 && (
        <p className="filing-waits">
          {say("{{delivered_by}} sends this straight to the office. Nothing is attached here.", {
            delivered_by: slot.delivered_by,
          })}
        </p>
      )}
      {asked && !bare && !locked && slot.has_form && (
        <p>
          <a href={`/api/drafts/${id}/forms/${slot.slot}`} download>
            {say("The office's form, filled in as far as is known (PDF)")}
          </a>
        </p>
      )}
      {asked && !bare && !locked && slot.by_post && <ByPost work={work} id={id} slot={slot.slot} />}
      {(asked || bare) && !locked && !slot.delivered_by && (
        <p className="filing-drop">
          {say("Drop a file here, or")}{" "}
          <ChooseFiles name={say("File for {{title}}", { title: slot.title })} onFiles={send}>
            {say("choose a file")}
            <span className="jc-hidden"> {say("for {{title}}", { title: slot.title })}</span>
          </ChooseFiles>
        </p>
      )}
      {(asked || bare || files.length > 0) && (
        <IssuersOf of={id} files={view.files.length} place={slot} own={view.own && !locked} full={files.length > 0} />
      )}
    </section>
  );
}
