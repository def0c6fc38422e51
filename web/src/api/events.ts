/** What happens in the plant: one stream for all pages of this browser, by which they ask anew for what has changed. */
import type { QueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import type { Search } from "./client";
import { hear } from "./live";

type Told = { kind: string; data: string };

/** Something that has changed, and not by this page. */
export type News = { id: number; what: string };

const PAGES = "rundgang-events";
const MOST_NEWS = 3;

/** After a change of its own a page takes what it is told for that, ms. */
const OWN_MS = 3_000;

/** A stream that was refused is asked for again after so long, ms. */
const AGAIN_MS = 5_000;

/** What of all that is shown a change makes stale, where it is not all of it: the first part of a query's key. */
const STALE: Record<string, readonly string[]> = {
  plant: ["plant"],
  probes: ["cards", "friction"],
  columns: ["order-columns"],
  published: ["day", "plan", "version", "versions", "now", "offer"],
  instruments: ["instruments", "now"],
  inspections: ["inspections", "round", "standing"],
  trouble: ["trouble", "now"],
  lots: ["lots", "guide", "dispatch", "account", "materials"],
  lessons: ["lessons"],
  upkeep: ["upkeep"],
  handover: ["handover", "account"],
  recalls: ["recalls"],
  round: ["round", "standing", "cards", "friction", "quality", "account"],
};

/** What is asked again and again as one types, or stays as it is, is not asked for because something has changed. */
const STAYS = new Set(["answer", "draft", "tried-library", "odds"]);

let own = 0;
let last = 0;
let happened: { news: readonly News[]; ended: Search | undefined } = { news: [], ended: undefined };
const readers = new Set<() => void>();

const happens = (now: Partial<typeof happened>) => {
  happened = { ...happened, ...now };
  for (const reader of readers) reader();
};

/** This page changes something itself. */
export const changesItself = () => {
  own = Date.now();
};

export const dismissNews = (id: number) => happens({ news: happened.news.filter((one) => one.id !== id) });
export const dismissEnded = () => happens({ ended: undefined });

const read = (reader: () => void) => {
  readers.add(reader);
  return () => readers.delete(reader);
};

/** What others have changed since one was told last, and the search that has ended. */
export const useHappenings = () => useSyncExternalStore(read, () => happened);

const isOver = (search: Search) => search.state === "done" || search.state === "failed";

const said = new Set<number>();

/** A search that is over is said once, whether one was told so or found it gone. */
export function searchEnded(search: Search) {
  if (!isOver(search) || said.has(search.job)) return;
  said.add(search.job);
  happens({ ended: search });
}

function take(queries: QueryClient, { kind, data }: Told) {
  if (kind === "search") {
    const search = JSON.parse(data) as Search;
    queries.setQueryData<Search[]>(["searches"], (known = []) => [
      ...known.filter((one) => one.job !== search.job),
      ...(isOver(search) ? [] : [search]),
    ]);
    searchEnded(search);
    return;
  }
  if (kind === "readings") {
    hear(data);
    return;
  }
  if (kind !== "changed") return;
  const isOwn = Date.now() - own <= OWN_MS;
  if (data === "plant" && isOwn) return;
  const stale = STALE[data];
  queries.invalidateQueries({
    predicate: ({ queryKey: [name] }) =>
      stale ? stale.includes(String(name)) : !STAYS.has(String(name)) && (name !== "plant" || data === "all"),
  });
  if (!isOwn) {
    const before = happened.news.filter((one) => one.what !== data);
    last += 1;
    happens({ news: [...before, { id: last, what: data }].slice(-MOST_NEWS) });
  }
}

/** Listen for as long as the page is there, and hand on what is told; what changed before one listened may be anything. */
function listen(tell: (told: Told) => void) {
  const stream = new EventSource("/api/events");
  for (const kind of ["changed", "search", "readings"])
    stream.addEventListener(kind, (event) => tell({ kind, data: (event as MessageEvent<string>).data }));
  stream.addEventListener("error", () => {
    if (stream.readyState === EventSource.CLOSED) setTimeout(() => listen(tell), AGAIN_MS);
  });
  stream.addEventListener("listening", () => tell({ kind: "changed", data: "all" }));
}

/** Follow what happens. Of a browser's pages one listens and tells the others; when it is closed, another does. */
export function followEvents(queries: QueryClient) {
  const pages = new BroadcastChannel(PAGES);
  pages.onmessage = (message: MessageEvent<Told>) => take(queries, message.data);
  const tell = (told: Told) => {
    pages.postMessage(told);
    take(queries, told);
  };
  if (navigator.locks) void navigator.locks.request(PAGES, () => new Promise<never>(() => listen(tell)));
  else listen((told) => take(queries, told));
}
