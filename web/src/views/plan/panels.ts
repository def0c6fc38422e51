/** What can be opened beside a plan. */
export type Panels = "lorries" | "versions";
