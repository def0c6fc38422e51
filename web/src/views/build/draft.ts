/** A plant as it is typed: what the API takes, and how it begins. */
import type { Schemas } from "../../api/client";

export type Pattern = Schemas["Pattern"];
export type Figures = Record<string, number>;
export type ProductDraft = Omit<Schemas["ProductDraft"], "figures"> & { figures: Record<string, Figures> };
export type Draft = Omit<Schemas["Draft"], "figures" | "products"> & {
  figures: Record<string, Figures>;
  products: ProductDraft[];
};

export const patternProduct = (pattern: Pattern): ProductDraft => ({
  name: "",
  pieces_per_pack: pattern.pieces_per_pack,
  baked_g: pattern.baked_g,
  target_per_hour: pattern.target_per_hour,
  fresh_for_h: pattern.fresh_for_h,
  figures: {},
});

export const draftOf = (pattern: Pattern | undefined): Draft => ({
  plant: "",
  town: "",
  time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  line: "",
  pattern: pattern?.id ?? "",
  figures: {},
  products: pattern ? [patternProduct(pattern)] : [],
});

/** What of a draft another family does not share. */
export const without = (draft: Draft): Pick<Draft, "plant" | "town" | "line" | "time_zone" | "figures"> => ({
  plant: draft.plant,
  town: draft.town,
  line: draft.line,
  time_zone: draft.time_zone,
  figures: {},
});
