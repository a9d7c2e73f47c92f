// Two files side by side, over each other, or only what differs; their sheets are turned together.
import { useCallback, useEffect, useRef, useState } from "react";
import { useHotkey } from "../shared/keys";
import { Key } from "../shared/Marks";
import { Boxes, FileLook } from "../shared/PdfView";
import { drawSheet, usePdf } from "../shared/pdf";
import { say, things } from "../shared/text";
import { COLOURS, type Grey, greyOf, type Laid, laidOver, painted } from "./laidOver";
import "../shared/pdf.css";
import "./answers.css";
import "./two-files.css";

/** One of two files that are compared. */
export type Side = {
  url: string;
  /** What stands above it: which file of which version or case. */
  label: string;
  file: { attachment: { name: string; size: number }; type: string; opens: string; said: string };
  /** The sheet that is looked at first. */
  page?: number;
};

type Way = "sides" | "over" | "differs";
const WAYS: [Way, string][] = [
  ["sides", say("Side by side")],
  ["over", say("Over each other")],
  ["differs", say("Only what differs")],
];
/** So many dots wide sheets are drawn to be laid over each other. */
const WIDE = 1000;

const canBeLaid = ({ file }: Side) => file.opens === "yes" && ["pdf", "png", "jpeg"].includes(file.type);

export function TwoFiles({ first, second, keys }: { first: Side; second: Side; keys?: boolean }) {
  const [way, setWay] = useState<Way>("sides");
  const [turned, setTurned] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other files begin at their first sheet
  useEffect(() => setTurned(0), [first.url, second.url]);
  const pages = [first, second].map((side) => Math.max(1, (side.page ?? 1) + turned)) as [number, number];
  const turn = (by: number) => setTurned((now) => now + by);
  useHotkey(",", () => turn(-1), !!keys && Math.max(...pages) > 1);
  useHotkey(".", () => turn(1), !!keys);
  const laid = canBeLaid(first) && canBeLaid(second);
  return (
    <div className="two-files">
      <div className="desk-switch" role="group" aria-label={say("How to compare")}>
        {WAYS.map(([id, label]) => (
          <button
            key={id}
            type="button"
            aria-pressed={way === id}
            disabled={id !== "sides" && !laid}
            onClick={() => setWay(id)}
          >
            {label}
          </button>
        ))}
      </div>
      {way === "sides" ? (
        <div className="desk-sides">
          {[first, second].map((side, n) => (
            <section key={side.label} aria-label={side.label}>
              <p>{side.label}</p>
              <FileLook url={side.url} file={side.file} keys={keys && n === 1} at={pages[n]} />
            </section>
          ))}
        </div>
      ) : (
        <Over key={pages.join()} first={first} second={second} pages={pages} onlyDiffers={way === "differs"} />
      )}
      {way !== "sides" && (
        <p className="jc-turn">
          <button
            type="button"
            onClick={() => turn(-1)}
            disabled={Math.max(...pages) === 1}
            aria-label={say("Sheet before")}
          >
            {keys ? <Key>,</Key> : "‹"}
          </button>
          {pages[0] === pages[1]
            ? say("sheet {{page}} of both", { page: pages[0] })
            : say("sheet {{first}} and sheet {{second}}", { first: pages[0], second: pages[1] })}
          <button type="button" onClick={() => turn(1)} aria-label={say("Next sheet")}>
            {keys ? <Key>.</Key> : "›"}
          </button>
        </p>
      )}
    </div>
  );
}

const rgb = (colour: readonly number[]) => `rgb(${colour.join(" ")})`;

/** Both sheets in one picture, with what it means and where they differ. */
function Over({
  first,
  second,
  pages,
  onlyDiffers,
}: {
  first: Side;
  second: Side;
  pages: [number, number];
  onlyDiffers: boolean;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const room = useRef<HTMLDivElement>(null);
  const one = useGrey(first, pages[0]);
  const two = useGrey(second, pages[1]);
  const [laid, setLaid] = useState<Laid | null>(null);
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!one.grey || !two.grey) return;
    setLaid(laidOver(one.grey, two.grey));
    setAt(0);
  }, [one.grey, two.grey]);
  useEffect(() => {
    const it = canvas.current;
    if (!laid || !it) return;
    it.width = laid.width;
    it.height = laid.height;
    it.getContext("2d")?.putImageData(new ImageData(painted(laid, onlyDiffers), laid.width, laid.height), 0, 0);
  }, [laid, onlyDiffers]);
  const trouble = one.trouble || two.trouble;
  if (trouble) return <p className="jc-pdf-trouble">{trouble}</p>;
  const places = laid?.places ?? [];
  const go = () => {
    const next = (at + 1) % places.length;
    setAt(next);
    room.current?.querySelectorAll(".jc-pdf-box")[next]?.scrollIntoView({ block: "center", inline: "nearest" });
  };
  return (
    <>
      <p className="two-files-key" role="status">
        <i style={{ background: rgb(COLOURS.first) }} /> {say("only in {{label}}", { label: first.label })}
        <i style={{ background: rgb(COLOURS.second) }} /> {say("only in {{label}}", { label: second.label })}
        {laid && (
          <b>
            {places.length === 0
              ? say("Nothing differs on this sheet.")
              : say("They differ in {{places}}.", { places: things(places.length, "place") })}
          </b>
        )}
        {places.length > 1 && (
          <button type="button" className="jc-link" onClick={go}>
            {say("next place")}
          </button>
        )}
      </p>
      <div ref={room} className="jc-pdf-room" tabIndex={0} role="group" aria-label={say("Both over each other")}>
        <span className="jc-pdf-sheet">
          <canvas
            ref={canvas}
            className="two-files-sheet"
            role="img"
            aria-label={say("{{first}} and {{second}} over each other", { first: first.label, second: second.label })}
            data-drawn={!!laid}
          />
          <Boxes
            boxes={places.map((box, n) => ({ page: 1, box, label: say("place {{n}}", { n: n + 1 }), odd: n === at }))}
            page={1}
          />
        </span>
      </div>
    </>
  );
}

/** The grey values of a sheet, once it is drawn, or what stops it. */
function useGrey(side: Side, page: number): { grey: Grey | null; trouble: string } {
  const isPdf = side.file.type === "pdf";
  const { pdf, trouble, setTrouble } = usePdf(isPdf ? side.url : "");
  const [grey, setGrey] = useState<Grey | null>(null);
  const take = useCallback((canvas: HTMLCanvasElement) => {
    const seen = canvas.getContext("2d")?.getImageData(0, 0, canvas.width, canvas.height);
    if (seen) setGrey(greyOf(seen.data, seen.width, seen.height));
  }, []);
  useEffect(() => {
    if (!pdf) return;
    if (page > pdf.numPages) {
      setTrouble(say("{{label}} has no sheet {{page}}.", { label: side.label, page }));
      return;
    }
    const canvas = document.createElement("canvas");
    const width = () => WIDE / (window.devicePixelRatio || 1);
    return drawSheet(pdf, page, canvas, width, { onDrawn: () => take(canvas), onTrouble: setTrouble });
  }, [pdf, page, side.label, setTrouble, take]);
  useEffect(() => {
    if (isPdf) return;
    let gone = false;
    const image = new Image();
    image.onload = () => {
      if (gone) return;
      const canvas = document.createElement("canvas");
      canvas.width = WIDE;
      canvas.height = Math.round((WIDE * image.naturalHeight) / image.naturalWidth);
      canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
      take(canvas);
    };
    image.onerror = () => !gone && setTrouble(say("This file cannot be opened."));
    image.src = side.url;
    return () => {
      gone = true;
    };
  }, [isPdf, side.url, setTrouble, take]);
  return { grey, trouble };
}
