// Opening a PDF and drawing its sheets, by pdf.js with its worker served by us.
import { useEffect, useState } from "react";
import { say } from "./text";

type PdfModule = typeof import("pdfjs-dist");
export type Document = import("pdfjs-dist").PDFDocumentProxy;
let loading: Promise<PdfModule> | undefined;

/** The fonts that a PDF may name without bringing them; they ship with us and are fetched when a file needs one. */
const FOLDER = "/node_modules/pdfjs-dist/standard_fonts/";
const FONTS = import.meta.glob<string>("/node_modules/pdfjs-dist/standard_fonts/*.{pfb,ttf}", {
  query: "?url",
  import: "default",
  eager: true,
});

/** Gives pdf.js what it asks for by name. */
class OwnFonts {
  async fetch({ filename }: { filename: string }): Promise<Uint8Array> {
    const url = FONTS[FOLDER + filename];
    if (!url) throw new Error(filename);
    return new Uint8Array(await (await fetch(url)).arrayBuffer());
  }
}

function pdfjs(): Promise<PdfModule> {
  loading ??= Promise.all([import("pdfjs-dist"), import("pdfjs-dist/build/pdf.worker.min.mjs?url")]).then(
    ([module, worker]) => {
      module.GlobalWorkerOptions.workerSrc = worker.default;
      return module;
    },
  );
  return loading;
}

type Worker = import("pdfjs-dist").PDFWorker;
type Opening = import("pdfjs-dist").PDFDocumentLoadingTask;
/** Workers that no document has: starting one takes a tenth of a second, so so many wait for the next documents. */
const free: Worker[] = [];
const KEPT = 2;
/** Milliseconds in which a worker has to let a document go. */
const LETS_GO = 2000;

/** Close a document. Its worker is kept if it lets it go, and ended otherwise, so that what hangs over one file holds up no other. */
async function close(opening: Opening, worker: Worker): Promise<void> {
  const late = new Promise<boolean>((give) => setTimeout(give, LETS_GO, false));
  const answers = opening.destroy().then(
    () => true,
    () => false,
  );
  if ((await Promise.race([answers, late])) && free.length < KEPT) free.push(worker);
  else worker.destroy();
}

/** The PDF at an address, once it is open, or what is wrong with it in words; nothing without an address. */
export function usePdf(url: string) {
  const [pdf, setPdf] = useState<Document | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    let gone = false;
    let closes: (() => void) | undefined;
    setPdf(null);
    setTrouble("");
    if (!url) return;
    pdfjs()
      .then((module) => {
        if (gone) return null;
        const fonts = { standardFontDataUrl: FOLDER, BinaryDataFactory: OwnFonts, useSystemFonts: false };
        const worker = free.pop() ?? new module.PDFWorker({});
        const opening = module.getDocument({ url, worker, ...fonts, useWorkerFetch: false });
        closes = () => close(opening, worker);
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
      closes?.();
    };
  }, [url]);
  return { pdf, trouble, setTrouble };
}

/** Draw a sheet as wide as `width` says, in pixels of the screen; gives what stops it. A sheet after the last is the last. */
export function drawSheet(
  pdf: Document,
  page: number,
  canvas: HTMLCanvasElement,
  width: () => number,
  { onDrawn, onTrouble }: { onDrawn: () => void; onTrouble: (words: string) => void },
): () => void {
  let cancelled: (() => void) | undefined;
  let gone = false;
  pdf
    .getPage(Math.min(page, pdf.numPages))
    .then((sheet) => {
      if (gone) return;
      const natural = sheet.getViewport({ scale: 1 });
      const ratio = window.devicePixelRatio || 1;
      const viewport = sheet.getViewport({ scale: Math.max(0.1, width() / natural.width) * ratio });
      canvas.width = viewport.width;
      canvas.height = viewport.height;
      canvas.style.width = `${viewport.width / ratio}px`;
      canvas.style.height = `${viewport.height / ratio}px`;
      const job = sheet.render({ canvas, viewport });
      cancelled = () => job.cancel();
      return job.promise.then(onDrawn);
    })
    .catch((error: Error) => {
      if (error.name !== "RenderingCancelledException") onTrouble(say("This page cannot be drawn."));
    });
  return () => {
    gone = true;
    cancelled?.();
  };
}
