/** Why pieces are pulled, or packs scrapped. */
import type { Schemas } from "../api/client";

export type WasteCause = Schemas["ScrapRequest"]["cause"];

const ALL: Record<WasteCause, true> = {
  shape: true,
  "size or weight": true,
  "colour or bake": true,
  damaged: true,
  "stuck or doubled": true,
  "filling or coating": true,
  "seal or pack": true,
  "label or date": true,
  "foreign body": true,
  "on the floor": true,
  "start or end of a run": true,
  sample: true,
  "past its life": true,
  other: true,
};

export const WASTE_CAUSES = Object.keys(ALL) as WasteCause[];
