// A file of the case as it is: PDFs by pdf.js with its worker served by us, pictures as pictures, the rest as a download.
import { useEffect, useRef, useState } from "react";
import { useHotkey } from "./keys";
import { Key } from "./Marks";
import { size } from "./say";
import { say } from "./text";
import "./pdf.css";

type PdfModule = typeof import("pdfjs-dist");
let loading: Promise<PdfModule> | undefined;

function pdfjs(): Promise<PdfModule> {
  loading ??= Promise.all([import("pdfjs-dist"), import("pdfjs-dist/build/pdf.worker.min.mjs?url")]).then(
    ([module, worker]) => {
      module.GlobalWorkerOptions.workerSrc = worker.default;
      return module;
    },
  );
  return loading;
}

/** Something found on a page: left, top, right, bottom as shares of it. */
export type PageBox = { page: number; box: number[]; label: string; odd: boolean };
type Document = import("pdfjs-dist").PDFDocumentProxy;

export function PdfView({
  url,
  label,
  keys,
  compact,
  boxes,
}: {
  url: string;
  label: string;
  keys?: boolean;
  compact?: boolean;
  boxes?: PageBox[];
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const [pdf, setPdf] = useState<Document | null>(null);
  const [page, setPage] = useState(1);
  const [zoom, setZoom] = useState(1);
  const [trouble, setTrouble] = useState("");
  const [drawn, setDrawn] = useState(false);

  useEffect(() => {
    let gone = false;
    let task: { destroy: () => Promise<void> } | undefined;
    setPdf(null);
    setPage(1);
    setTrouble("");
    setDrawn(false);
    pdfjs()
      .then((module) => {
        const opening = module.getDocument({ url });
        task = opening;
        return opening.promise;
      })
      .then((found) => !gone && setPdf(found))
      .catch((error: Error) => {
        if (!gone)
          setTrouble(
            error.name === "PasswordException"
              ? say("This file is locked by a password.")
              : say("This file cannot be opened."),
          );
      });
    return () => {
      gone = true;
      task?.destroy();
    };
  }, [url]);

  const target = boxes?.find((b) => b.odd)?.page ?? boxes?.[0]?.page;
  useEffect(() => {
    if (target && pdf) setPage(target);
  }, [target, pdf]);

  useEffect(() => {
    if (!pdf || !canvas.current || !box.current) return;
    let cancelled: (() => void) | undefined;
    let gone = false;
    pdf
      .getPage(Math.min(page, pdf.numPages))
      .then((sheet) => {
        const target = canvas.current;
        if (gone || !target || !box.current) return;
        const natural = sheet.getViewport({ scale: 1 });
        const room = box.current;
        const fit = Math.min(
          (room.clientWidth - 2) / natural.width,
          compact ? 9 : (room.clientHeight - 4) / natural.height,
        );
        const ratio = window.devicePixelRatio || 1;
        const viewport = sheet.getViewport({ scale: Math.max(0.1, fit) * zoom * ratio });
        target.width = viewport.width;
        target.height = viewport.height;
        target.style.width = `${viewport.width / ratio}px`;
        target.style.height = `${viewport.height / ratio}px`;
        const job = sheet.render({ canvas: target, viewport });
        cancelled = () => job.cancel();
        return job.promise.then(() => setDrawn(true));
      })
      .catch((error: Error) => {
        if (error.name !== "RenderingCancelledException") setTrouble(say("This page cannot be drawn."));
      });
    return () => {
      gone = true;
      cancelled?.();
    };
  }, [pdf, page, zoom, compact]);

  const count = pdf?.numPages ?? 0;
  const turn = (by: number) => setPage((now) => Math.max(1, Math.min(count || 1, now + by)));
  useHotkey(",", () => turn(-1), !!keys);
  useHotkey(".", () => turn(1), !!keys);
  useHotkey("+", () => setZoom((z) => Math.min(4, z * 1.25)), !!keys);
  useHotkey("-", () => setZoom((z) => Math.max(0.5, z / 1.25)), !!keys);

  return (
    <figure className={`jc-pdf${compact ? " compact" : ""}`}>
      <div ref={box} className="jc-pdf-room" tabIndex={0} role="group" aria-label={label}>
        {trouble ? (
          <p className="jc-pdf-trouble">
            {trouble} <a href={url}>{say("Take the file as it is")}</a>
          </p>
        ) : (
          <span className="jc-pdf-sheet">
            <canvas
              ref={canvas}
              role="img"
              aria-label={say("{{label}}, sheet {{page}} of {{countOf}}", { label, page, countOf: count || "?" })}
              data-drawn={drawn}
            />
            {drawn &&
              boxes
                ?.filter((b) => b.page === page)
                .map((b) => (
                  <i
                    key={b.box.join()}
                    className={`jc-pdf-box${b.odd ? " odd" : ""}`}
                    style={around(b.box)}
                    role="img"
                    aria-label={say("Found here: {{label}}", { label: b.label })}
                  />
                ))}
          </span>
        )}
      </div>
      {count > 1 && (
        <figcaption>
          <button type="button" onClick={() => turn(-1)} disabled={page === 1} aria-label={say("Sheet before")}>
            {keys ? <Key>,</Key> : "‹"}
          </button>
          {say("sheet {{page}} of {{countOf}}", { page, countOf: count })}
          <button type="button" onClick={() => turn(1)} disabled={page === count} aria-label={say("Next sheet")}>
            {keys ? <Key>.</Key> : "›"}
          </button>
        </figcaption>
      )}
    </figure>
  );
}

function around([left = 0, top = 0, right = 0, bottom = 0]: number[]) {
  const percent = (share: number) => `${(share * 100).toFixed(2)}%`;
  return { left: percent(left), top: percent(top), width: percent(right - left), height: percent(bottom - top) };
}

/** Whatever the file is, the best way to see it. */
export function FileLook({
  url,
  file,
  keys,
  compact,
  boxes,
}: {
  url: string;
  file: { attachment: { name: string; size: number }; type: string; opens: string; said: string };
  keys?: boolean;
  compact?: boolean;
  boxes?: PageBox[];
}) {
  const { name } = file.attachment;
  if (file.type === "pdf" && file.opens === "yes")
    return <PdfView url={url} label={name} keys={keys} compact={compact} boxes={boxes} />;
  if (["png", "jpeg"].includes(file.type) && file.opens === "yes")
    return (
      <figure className="jc-pdf">
        <div className="jc-pdf-room" tabIndex={0} role="group" aria-label={name}>
          <img src={url} alt={say("The file {{name}}", { name })} />
        </div>
      </figure>
    );
  return (
    <p className="jc-pdf-trouble">
      {say("{{name}}: {{said}}, {{size}}. It cannot be shown here.", {
        name,
        said: file.said,
        size: size(file.attachment.size),
      })}{" "}
      <a href={url}>{say("Take the file as it is")}</a>
    </p>
  );
}
