// The page of a permit, as the server tells it.
import type { Schemas } from "../api/client";

export type Page = Schemas["PermitPage"];
