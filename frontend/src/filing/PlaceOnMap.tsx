// A place found on the map of a register: plots outlined, a point set, its distance to high water measured by the office.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { placeOf } from "../api/place";
import { Dialog } from "../shared/Dialog";
import { ProblemNote, Skeleton } from "../shared/Notes";
import { say } from "../shared/text";
import type { Work } from "./draft";
import { type Drawn, MapDrawing, type Point } from "./MapDrawing";
import "./map.css";

type Props = { work: Work; id: string; name: string; onTake: (key: string) => Promise<void> };

export function PlaceOnMap(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="jc-button small plain" onClick={() => setOpen(true)}>
        {say("Find it on the map")}
      </button>
      <Dialog title={say("Where is it?")} opened={open} onClose={() => setOpen(false)}>
        <OnMap {...props} onDone={() => setOpen(false)} />
      </Dialog>
    </>
  );
}

function OnMap({ work, id, name, onTake, onDone }: Props & { onDone: () => void }) {
  const path = { draft: id, name };
  const [words, setWords] = useState("");
  const [at, setAt] = useState<Point | null>(null);
  const [to, setTo] = useState<Point | null>(null);
  const [trouble, setTrouble] = useState<unknown>(null);
  const map = useQuery({
    queryKey: ["map", name],
    queryFn: () => ask(api.GET("/api/drafts/{draft}/registers/{name}/map", { params: { path } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const point = useQuery({
    queryKey: ["map", name, at],
    queryFn: () =>
      ask(
        api.GET("/api/drafts/{draft}/registers/{name}/map/point", {
          params: { path, query: { x: at?.[0] ?? 0, y: at?.[1] ?? 0 } },
        }),
      ),
    enabled: at !== null,
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (map.isPending) return <Skeleton lines={6} />;
  if (!map.data) return <ProblemNote error={map.error} />;
  const drawn = map.data as Drawn;
  const wanted = words.toLowerCase().trim();
  const listed = drawn.plots.filter((p) => `${p.plot} ${p.address}`.toLowerCase().includes(wanted));
  const found = at ? point.data : undefined;
  const plot = drawn.plots.find((p) => p.plot === found?.plot);
  const choose = (one: Schemas["PlotOnMap"]) => {
    setAt(one.nearest as unknown as Point);
    setTo(one.middle as unknown as Point);
  };

  /** The distance is an answer of the form like any other; the register gives the rest. */
  async function take() {
    if (!plot || !found) return;
    setTrouble(null);
    try {
      const place = placeOf(work.view?.form.measures[name] ?? "");
      const part = (work.answers[place.head] ?? {}) as Record<string, unknown>;
      work.type({ answers: { ...work.answers, [place.head]: { ...part, [place.question]: found.to_water } } });
      await work.flush();
      await onTake(plot.plot);
      onDone();
    } catch (error) {
      setTrouble(error);
    }
  }

  return (
    <div className="map">
      <div className="map-list">
        <label htmlFor="map-words">{say("Plot number or address")}</label>
        <input id="map-words" value={words} onChange={(e) => setWords(e.target.value)} autoComplete="off" />
        <ul>
          {listed.map((one) => (
            <li key={one.plot}>
              <button type="button" aria-pressed={one.plot === plot?.plot} onClick={() => choose(one)}>
                <b className="mono">{one.plot}</b> {one.address}
              </button>
            </li>
          ))}
        </ul>
        {listed.length === 0 && <p className="second">{say("No plot of the map is called that.")}</p>}
      </div>
      <div>
        <MapDrawing
          drawn={drawn}
          at={at}
          to={to}
          shore={found?.shore as Point}
          chosen={plot?.plot ?? ""}
          onSet={setAt}
        />
        <p role="status" className="map-said">
          {!found
            ? say("Choose a plot, or press where the nearest part of the works stands.")
            : found.below
              ? say("This lies below high water.")
              : plot
                ? say("{{plot}}, {{address}}: this point lies {{metres}} m from high water.", {
                    plot: plot.plot,
                    address: plot.address,
                    metres: found.to_water,
                  })
                : say("No plot is here. This point lies {{metres}} m from high water.", {
                    metres: found.to_water,
                  })}
        </p>
        <ProblemNote error={point.error ?? trouble} />
        <p>
          <button type="button" className="jc-button" disabled={!plot || point.isFetching} onClick={take}>
            {say("Take the plot and the distance")}
          </button>{" "}
          <a href={`/api/drafts/${id}/registers/${name}/map.geojson`} download>
            {say("The map as GeoJSON")}
          </a>
        </p>
      </div>
    </div>
  );
}
