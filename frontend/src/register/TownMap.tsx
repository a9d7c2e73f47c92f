// The entries of the public register on the town's map; the list below says the same, for whoever does not see the map.
import { useQuery } from "@tanstack/react-query";
import L from "leaflet";
import "leaflet/dist/leaflet.css";
import { useEffect, useRef } from "react";
import { api, ask } from "../api/client";
import { ProblemNote } from "../shared/Notes";
import { say, things } from "../shared/text";

type Asked = { words: string; kind: string; since?: string; until?: string };
type Told = {
  what: "land" | "street" | "entry";
  name?: string;
  reference: string;
  place: string;
  title: string;
  stands: string;
  outcome: string;
};
type Ground = GeoJSON.FeatureCollection<GeoJSON.Geometry, Told>;
type Spot = GeoJSON.Feature<GeoJSON.Point, Told>;

export function TownMap({ asked, onChoose }: { asked: Asked; onChoose: (reference: string) => void }) {
  const room = useRef<HTMLDivElement>(null);
  const drawn = useRef<{ map: L.Map; entries: L.LayerGroup } | null>(null);
  const found = useQuery({
    queryKey: ["register", "map", asked],
    queryFn: () => ask(api.GET("/api/register/map", { params: { query: asked }, parseAs: "json" })),
    placeholderData: (before) => before,
  });
  const told = found.data as unknown as Ground | undefined;
  const spots = (told?.features.filter((f) => f.properties.what === "entry") ?? []) as Spot[];
  const places = new Set(spots.map((f) => f.properties.place)).size;
  useEffect(() => {
    if (!room.current) return;
    const map = L.map(room.current, {
      attributionControl: false,
      zoomSnap: 0.25,
      scrollWheelZoom: false,
      keyboard: true,
    });
    drawn.current = { map, entries: L.layerGroup().addTo(map) };
    return () => {
      drawn.current = null;
      map.remove();
    };
  }, []);
  useEffect(() => {
    const here = drawn.current;
    if (!here || !told) return;
    here.entries.clearLayers();
    const ground = L.geoJSON(
      told.features.filter((f) => f.properties.what !== "entry"),
      { interactive: false, style: (f) => ({ className: `town-${f?.properties.what}` }) },
    ).addTo(here.entries);
    if (ground.getBounds().isValid()) here.map.fitBounds(ground.getBounds());
    for (const [place, entries] of grouped(told.features)) {
      const [x = 0, y = 0] = entries[0]?.geometry.coordinates ?? [];
      L.marker([y, x], { icon: pin(entries.length), title: place, alt: place })
        .bindPopup(() => listed(place, entries, onChoose), { autoPan: false })
        .addTo(here.entries);
    }
  }, [told, onChoose]);
  return (
    <section className="town" aria-label={say("The map")}>
      <ProblemNote error={found.error} />
      <div ref={room} className="town-map" />
      <p className="second" role="status">
        {told &&
          say("{{entries}} at {{places}}. What has no place on the map stands in the list alone.", {
            entries: things(spots.length, "entry"),
            places: things(places, "place"),
          })}
      </p>
    </section>
  );
}

/** The entries by their place. */
function grouped(features: Ground["features"]): Map<string, Spot[]> {
  const found = new Map<string, Spot[]>();
  for (const f of features)
    if (f.properties.what === "entry")
      found.set(f.properties.place, [...(found.get(f.properties.place) ?? []), f as Spot]);
  return found;
}

/** A round mark with the number of entries. */
const pin = (count: number) =>
  L.divIcon({ className: "town-pin", html: `<b>${Number(count)}</b>`, iconSize: [26, 26], iconAnchor: [13, 13] });

/** What a mark says when it is pressed; made of text alone, never of what an entry says as HTML. */
function listed(place: string, entries: Spot[], onChoose: (reference: string) => void): HTMLElement {
  const box = document.createElement("div");
  const head = document.createElement("b");
  head.textContent = place;
  box.append(head);
  for (const { properties: p } of entries) {
    const line = document.createElement("button");
    line.type = "button";
    line.className = "jc-link";
    line.textContent = `${p.title}, ${p.outcome === "refused" ? say("refused") : p.stands}`;
    line.addEventListener("click", () => onChoose(p.reference));
    box.append(document.createElement("br"), line);
  }
  return box;
}
