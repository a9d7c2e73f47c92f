// The map drawn: land, streets, plots, a point that is set by a press or moved by the arrow keys, and the way from it to the water.
import { type KeyboardEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { say } from "../shared/text";

export type Drawn = Schemas["TownMap"];
export type Point = [number, number];
type Box = { x: number; y: number; wide: number };

const NEAR = 150; // metres that are seen at least of a plot that was chosen
const LEAST = 40;
const STEP = 0.5;
const ARROWS: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

const line = (points: number[][]) => points.map(([x, y]) => `${x},${y}`).join(" ");
const tenth = (value: number) => Math.round(value * 10) / 10;

export function MapDrawing({
  drawn,
  at,
  to,
  shore,
  chosen,
  onSet,
}: {
  drawn: Drawn;
  /** The point that is set. */
  at: Point | null;
  /** What was chosen in the list, and is brought to the eye. */
  to: Point | null;
  shore?: Point;
  chosen: string;
  onSet: (at: Point) => void;
}) {
  const tall = drawn.height / drawn.width;
  const [box, setBox] = useState<Box>({ x: 0, y: 0, wide: drawn.width });
  const svg = useRef<SVGSVGElement>(null);
  const from = useRef<{ x: number; y: number; box: Box; moved: boolean } | null>(null);
  const fitted = useRef<Point | null>(null);
  useEffect(() => {
    // what was chosen is brought to the eye once, with the water next to it
    if (!to || !shore || fitted.current === to) return;
    fitted.current = to;
    const wide = Math.max(NEAR, Math.abs(to[0] - shore[0]) * 1.7, (Math.abs(to[1] - shore[1]) * 1.7) / tall);
    setBox({ x: (to[0] + shore[0] - wide) / 2, y: (to[1] + shore[1] - wide * tall) / 2, wide });
  }, [to, shore, tall]);
  const dot = box.wide / 640; // one dot of the screen in metres
  const near = box.wide < 500;

  const zoom = (by: number) =>
    setBox((b) => {
      const wide = Math.min(drawn.width, Math.max(LEAST, b.wide * by));
      return { x: b.x + (b.wide - wide) / 2, y: b.y + ((b.wide - wide) * tall) / 2, wide };
    });
  const metres = (e: MouseEvent): Point => {
    const frame = svg.current?.getBoundingClientRect();
    if (!frame) return [0, 0];
    const scale = box.wide / frame.width;
    return [tenth(box.x + (e.clientX - frame.left) * scale), tenth(box.y + (e.clientY - frame.top) * scale)];
  };
  function moved(e: MouseEvent) {
    const began = from.current;
    const frame = svg.current?.getBoundingClientRect();
    if (!began || !frame) return;
    const dx = e.clientX - began.x;
    const dy = e.clientY - began.y;
    if (Math.abs(dx) + Math.abs(dy) < 5 && !began.moved) return;
    began.moved = true;
    const scale = began.box.wide / frame.width;
    setBox({ ...began.box, x: began.box.x - dx * scale, y: began.box.y - dy * scale });
  }
  function pressed(e: KeyboardEvent) {
    const way = ARROWS[e.key];
    if (e.key === "+" || e.key === "-") zoom(e.key === "+" ? 0.7 : 1.4);
    if (!way) return;
    e.preventDefault();
    const step = e.shiftKey ? STEP * 10 : STEP;
    const now = at ?? [box.x + box.wide / 2, box.y + (box.wide * tall) / 2];
    onSet([tenth(now[0] + way[0] * step), tenth(now[1] + way[1] * step)]);
  }

  return (
    <div className="map-drawing">
      <svg
        ref={svg}
        role="application"
        tabIndex={0}
        aria-label={say(
          "Map; the arrow keys move the point by half a metre, with Shift by five, + and - make it larger",
        )}
        viewBox={`${box.x} ${box.y} ${box.wide} ${box.wide * tall}`}
        onMouseDown={(e) => {
          from.current = { x: e.clientX, y: e.clientY, box, moved: false };
        }}
        onMouseMove={moved}
        onMouseLeave={() => {
          from.current = null;
        }}
        onMouseUp={(e) => {
          if (from.current && !from.current.moved) onSet(metres(e));
          from.current = null;
        }}
        onKeyDown={pressed}
      >
        <rect
          className="map-water"
          x={box.x - box.wide}
          y={box.y - box.wide}
          width={box.wide * 3}
          height={box.wide * 3}
        />
        {drawn.land.map((ring) => (
          <polygon key={line(ring.slice(0, 2))} className="map-land" points={line(ring)} strokeWidth={2 * dot} />
        ))}
        {drawn.streets.map((street) => (
          <polyline
            key={street.name}
            className="map-street"
            points={line(street.line)}
            strokeWidth={Math.max(5, 3 * dot)}
          />
        ))}
        {drawn.plots.map((plot) => (
          <polygon
            key={plot.plot}
            className={`map-plot${plot.plot === chosen ? " chosen" : ""}`}
            points={line(plot.outline)}
            strokeWidth={dot * 1.5}
          />
        ))}
        {near &&
          drawn.plots.map((plot) => (
            <text key={plot.plot} className="map-number" x={plot.middle[0]} y={plot.middle[1]} fontSize={13 * dot}>
              {plot.plot}
            </text>
          ))}
        {drawn.streets.map((street) => {
          const [a = [0, 0], b = [0, 0]] = street.line;
          const x = ((a[0] ?? 0) + (b[0] ?? 0)) / 2;
          const y = ((a[1] ?? 0) + (b[1] ?? 0)) / 2;
          return (
            <text key={street.name} className="map-name" x={x} y={y - 6 * dot} fontSize={(near ? 12 : 11) * dot}>
              {street.name}
            </text>
          );
        })}
        {at && shore && (
          <line
            className="map-way"
            x1={at[0]}
            y1={at[1]}
            x2={shore[0]}
            y2={shore[1]}
            strokeWidth={2 * dot}
            strokeDasharray={`${6 * dot}`}
          />
        )}
        {at && <circle className="map-point" cx={at[0]} cy={at[1]} r={6 * dot} strokeWidth={2 * dot} />}
      </svg>
      <div className="map-zoom">
        <button type="button" aria-label={say("Larger")} onClick={() => zoom(0.6)}>
          +
        </button>
        <button type="button" aria-label={say("Smaller")} onClick={() => zoom(1.7)}>
          −
        </button>
        <button type="button" onClick={() => setBox({ x: 0, y: 0, wide: drawn.width })}>
          {say("whole island")}
        </button>
      </div>
    </div>
  );
}
