import type { Schemas } from "../../api/client";

export type Stationery = Schemas["StationeryOut"];
