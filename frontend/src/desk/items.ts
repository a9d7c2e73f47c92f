// What is looked at when answers came back: a point that was asked, or a change that nobody asked for.
import type { Schemas } from "../api/client";

export type Item = { key: string; point?: Schemas["PointView"]; unasked?: Schemas["Unasked"]; places: string[] };
