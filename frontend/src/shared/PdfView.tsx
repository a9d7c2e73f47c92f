// A file of the case as it is: PDFs by pdf.js with its worker served by us, pictures as pictures, the rest as a download.
import { useSessionStorage } from "@mantine/hooks";
import { type RefObject, useEffect, useRef, useState } from "react";
import { useHotkey } from "./keys";
import { Key } from "./Marks";
import { drawSheet, usePdf } from "./pdf";
import { size } from "./say";
import { say } from "./text";
import "./pdf.css";

/** Something found on a page: left, top, right, bottom as shares of it. */
export type PageBox = { page: number; box: number[]; label: string; odd: boolean };

export function PdfView({
  url,
  label,
  keys,
  boxes,
  at,
  onSeen,
}: {
  url: string;
  label: string;
  keys?: boolean;
  boxes?: PageBox[];
  /** The sheet that is shown, where somebody else turns them. */
  at?: number;
  /** A sheet was drawn. */
  onSeen?: (page: number) => void;
}) {
  const seen = useRef(onSeen);
  seen.current = onSeen;
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const [page, setPage] = useState(1);
  const [zoom, setZoom] = useZoom();
  const [drawn, setDrawn] = useState(0); // the sheet that is drawn
  const { pdf, trouble, setTrouble } = usePdf(url);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another file begins at its first sheet
  useEffect(() => {
    setPage(1);
    setDrawn(0);
  }, [url]);

  const target = at ?? boxes?.find((b) => b.odd)?.page ?? boxes?.[0]?.page;
  useEffect(() => {
    if (target && pdf) setPage(Math.min(target, pdf.numPages));
  }, [target, pdf]);

  useEffect(() => {
    if (!pdf || !canvas.current || !box.current) return;
    const room = box.current;
    return drawSheet(pdf, page, canvas.current, () => (room.clientWidth - 2) * zoom, {
      onDrawn: () => {
        setDrawn(page);
        seen.current?.(page);
      },
      onTrouble: setTrouble,
    });
  }, [pdf, page, zoom, setTrouble]);
  useInSight(box, drawn > 0, boxes);

  const count = pdf?.numPages ?? 0;
  const turn = (by: number) => setPage((now) => Math.max(1, Math.min(count || 1, now + by)));
  const turnsItself = !!keys && at === undefined;
  useHotkey(",", () => turn(-1), turnsItself);
  useHotkey(".", () => turn(1), turnsItself);
  useZoomKeys(setZoom, !!keys);
  usePaging(box, !!keys, turn);

  return (
    <figure className="jc-pdf">
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
              data-drawn={drawn > 0}
            />
            {drawn === page && <Boxes boxes={boxes} page={page} />}
          </span>
        )}
      </div>
      {count > 1 && (
        <figcaption className="jc-turn">
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

/** What was found on a sheet, each in a box around its place. */
export function Boxes({ boxes, page }: { boxes?: PageBox[]; page: number }) {
  return boxes
    ?.filter((b) => b.page === page)
    .map((b) => (
      <i
        key={b.box.join()}
        className={`jc-pdf-box${b.odd ? " odd" : ""}`}
        style={around(b.box)}
        role="img"
        aria-label={say("Found here: {{label}}", { label: b.label })}
      />
    ));
}

/** The first thing that is odd, or else the first that was found, is brought to the eye. */
function useInSight(room: RefObject<HTMLElement | null>, drawn: boolean, boxes?: PageBox[]) {
  useEffect(() => {
    if (!drawn || !boxes?.length) return;
    const found = room.current?.querySelector(".odd") ?? room.current?.querySelector(".jc-pdf-box");
    found?.scrollIntoView({ block: "center", inline: "nearest" });
  }, [room, drawn, boxes]);
}

function around([left = 0, top = 0, right = 0, bottom = 0]: number[]) {
  const percent = (share: number) => `${(share * 100).toFixed(2)}%`;
  return { left: percent(left), top: percent(top), width: percent(right - left), height: percent(bottom - top) };
}

/** How large sheets and pictures are shown: kept from one file to the next, for as long as the window is open. */
function useZoom() {
  return useSessionStorage<number>({ key: "jolly-clerk-zoom", defaultValue: 1, getInitialValueInEffect: false });
}

function useZoomKeys(set: (change: (zoom: number) => number) => void, when: boolean) {
  useHotkey("+", () => set((z) => Math.min(4, z * 1.25)), when);
  useHotkey("-", () => set((z) => Math.max(0.5, z / 1.25)), when);
}

/** Space and the page keys move what is looked at; past its end they turn to the next sheet, before its begin to the one before. */
export function usePaging(room: RefObject<HTMLElement | null>, when: boolean, turn?: (by: number) => void) {
  const move = (by: number) => {
    const it = room.current;
    if (!it) return;
    const before = it.scrollTop;
    it.scrollBy({ top: by * it.clientHeight * SHARE });
    if (it.scrollTop === before && turn) {
      turn(by);
      it.scrollTop = 0;
    }
  };
  useHotkey(" ", () => move(1), when);
  useHotkey("PageDown", () => move(1), when);
  useHotkey("PageUp", () => move(-1), when);
}

/** So much of what is in sight a page key moves on. */
const SHARE = 0.85;

function Picture({
  url,
  name,
  keys,
  boxes,
  onSeen,
}: {
  url: string;
  name: string;
  keys?: boolean;
  boxes?: PageBox[];
  onSeen?: (page: number) => void;
}) {
  const room = useRef<HTMLDivElement>(null);
  const [zoom, setZoom] = useZoom();
  const [drawn, setDrawn] = useState(false);
  useInSight(room, drawn, boxes);
  useZoomKeys(setZoom, !!keys);
  usePaging(room, !!keys);
  return (
    <figure className="jc-pdf">
      <div ref={room} className="jc-pdf-room" tabIndex={0} role="group" aria-label={name}>
        <span className="jc-pdf-sheet" style={zoom === 1 ? undefined : { flex: "none", width: `${zoom * 100}%` }}>
          <img
            src={url}
            alt={say("The file {{name}}", { name })}
            style={zoom === 1 ? undefined : { width: "100%" }}
            onLoad={() => {
              setDrawn(true);
              onSeen?.(1);
            }}
          />
          {drawn && <Boxes boxes={boxes} page={1} />}
        </span>
      </div>
    </figure>
  );
}

/** Whatever the file is, the best way to see it. */
export function FileLook({
  url,
  file,
  keys,
  boxes,
  at,
  onSeen,
}: {
  url: string;
  file: { attachment: { name: string; size: number }; type: string; opens: string; said: string };
  keys?: boolean;
  boxes?: PageBox[];
  /** The sheet that is shown, where somebody else turns them. */
  at?: number;
  onSeen?: (page: number) => void;
}) {
  const { name } = file.attachment;
  if (file.type === "pdf" && file.opens === "yes")
    return <PdfView url={url} label={name} keys={keys} boxes={boxes} at={at} onSeen={onSeen} />;
  if (["png", "jpeg"].includes(file.type) && file.opens === "yes")
    return <Picture url={url} name={name} keys={keys} boxes={boxes} onSeen={onSeen} />;
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
