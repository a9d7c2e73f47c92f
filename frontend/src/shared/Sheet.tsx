// One sheet of a file, drawn when it comes near, and told once it was in sight.
import { useIntersection } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { drawSheet, usePdf } from "./pdf";
import { say } from "./text";
import "./pdf.css";

type File = Schemas["FileView"];

/** Whether the sheets of a file can be shown here. */
export const showsSheets = (file: File) => file.opens === "yes" && ["pdf", "png", "jpeg"].includes(file.type);

/** So much of a sheet, or of the room that it fills, has to be in sight for it to be seen. */
const SEEN = 0.6;
const STEPS = [0, 0.2, 0.4, 0.6, 0.8, 1];

export function Sheet(of: {
  url: string;
  file: File;
  page: number;
  /** Where it is scrolled. */
  room: HTMLElement | null;
  onSeen: () => void;
}) {
  const { ref: near, entry: nearby } = useIntersection<HTMLElement>({ root: of.room, rootMargin: "600px 0px" });
  const { ref: sight, entry } = useIntersection<HTMLElement>({ root: of.room, threshold: STEPS });
  const [comes, setComes] = useState(false);
  const [drawn, setDrawn] = useState(false);
  useEffect(() => {
    if (nearby?.isIntersecting && of.room) setComes(true);
  }, [nearby, of.room]);
  const fills = entry ? entry.intersectionRect.height / Math.max(1, entry.rootBounds?.height ?? 0) : 0;
  const seen = drawn && !!entry && (entry.intersectionRatio >= SEEN || fills >= SEEN);
  const tell = useRef(of.onSeen);
  tell.current = of.onSeen;
  useEffect(() => {
    if (seen) tell.current();
  }, [seen]);
  const { name } = of.file.attachment;
  return (
    <figure
      className="jc-sheet"
      ref={(it) => {
        near(it);
        sight(it);
      }}
    >
      {!comes ? null : of.file.type === "pdf" ? (
        <Drawn url={of.url} name={name} page={of.page} onDrawn={() => setDrawn(true)} />
      ) : (
        <img src={of.url} alt={say("The file {{name}}", { name })} onLoad={() => setDrawn(true)} />
      )}
    </figure>
  );
}

function Drawn({ url, name, page, onDrawn }: { url: string; name: string; page: number; onDrawn: () => void }) {
  const { pdf, trouble, setTrouble } = usePdf(url);
  const canvas = useRef<HTMLCanvasElement>(null);
  const tell = useRef(onDrawn);
  tell.current = onDrawn;
  useEffect(() => {
    const it = canvas.current;
    if (!pdf || !it) return;
    const width = () => it.parentElement?.clientWidth ?? it.clientWidth;
    return drawSheet(pdf, page, it, width, { onDrawn: () => tell.current(), onTrouble: setTrouble });
  }, [pdf, page, setTrouble]);
  return trouble ? (
    <p className="jc-pdf-trouble">{trouble}</p>
  ) : (
    <canvas
      ref={canvas}
      role="img"
      aria-label={say("{{label}}, sheet {{page}} of {{countOf}}", { label: name, page, countOf: pdf?.numPages ?? "?" })}
    />
  );
}
