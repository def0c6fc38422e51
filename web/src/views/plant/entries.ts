/** The kinds of thing in the library, and one of them as the list shows it. */
export type Kind = "products" | "lines" | "ingredients" | "preparations";
export type Entry = { id: string; name: string; under: string; data: Record<string, unknown> };
