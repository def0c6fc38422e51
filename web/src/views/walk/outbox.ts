/**
 * What was found on the walk, kept in this browser until it is stored: nothing is lost without a network, nor when the
 * browser is closed or killed. Entries are sent in the order in which they were made, once each.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { api, asked, Refusal, type Schemas } from "../../api/client";

export type Entry = Schemas["Entry"];
export type RoundView = Schemas["RoundView"];

export type PulledEntry = Schemas["PulledEntry"];

type OnItsWay = { order?: number; says: string; good: boolean | null; sent: boolean; why?: string };

/** What was found at a check, on its way; `why` where it was refused. */
export type KeptFind = OnItsWay & { entry: Entry; pulled?: undefined };

/** Pieces that were pulled, on their way. */
export type KeptPulled = OnItsWay & { pulled: PulledEntry; entry?: undefined };

export type Kept = KeptFind | KeptPulled;

export const isFind = (one: Kept): one is KeptFind => one.entry !== undefined;
export const isPulled = (one: Kept): one is KeptPulled => one.pulled !== undefined;

const uuidOf = (one: Kept) => (isFind(one) ? one.entry : one.pulled).uuid;

/** A round as it was read last, and when, by this browser's clock. */
export type KnownRound = { line: string; round: RoundView; readAt: number };

/** Who walks, and since when, by this browser's clock. */
export type Walker = { name: string; since: number };

interface Stores extends DBSchema {
  entries: { key: number; value: Kept };
  shift: { key: string; value: Walker };
  rounds: { key: string; value: KnownRound };
}

const NAME = "rundgang-walk";
const MOST_SENT = 100;
const AGAIN_MS = 4_000;
const SENT_ON = "rundgang-walk-sends";

let opened: Promise<IDBPDatabase<Stores>> | undefined;

function database() {
  opened ??= openDB<Stores>(NAME, 1, {
    upgrade(db) {
      db.createObjectStore("entries", { keyPath: "order", autoIncrement: true });
      db.createObjectStore("rounds", { keyPath: "line" });
      db.createObjectStore("shift");
    },
  });
  return opened;
}

let known: readonly Kept[] = [];
const readers = new Set<() => void>();

/** What is in the box, for whoever shows it. */
export const box = () => known;

export const readBox = (reader: () => void) => {
  readers.add(reader);
  return () => readers.delete(reader);
};

async function look() {
  known = await (await database()).getAll("entries");
  for (const reader of readers) reader();
}

/** Keep what was found: it is on the disk once this is done, and is sent as soon as it can be. */
export const keep = (entry: Entry, says: string, good: boolean | null) => add({ entry, says, good, sent: false });

/** Keep what was pulled, likewise. */
export const keepPulled = (pulled: PulledEntry, says: string) => add({ pulled, says, good: null, sent: false });

async function add(one: Kept) {
  const db = await database();
  const writing = db.transaction("entries", "readwrite", { durability: "strict" });
  await writing.store.add(one);
  await writing.done;
  await look();
  void send();
}

/** Let an entry go that was refused, once it was read why. */
export async function letGo(order: number) {
  await (await database()).delete("entries", order);
  await look();
}

async function mark(all: Kept[], change: (one: Kept) => Partial<OnItsWay>) {
  const writing = (await database()).transaction("entries", "readwrite", { durability: "strict" });
  await Promise.all(all.map((one) => writing.store.put({ ...one, ...change(one) } as Kept)));
  await writing.done;
}

/** Send what waits; whether all of it could be. One page of this browser does it at a time. */
export const send = async () => (navigator.locks ? await navigator.locks.request(SENT_ON, sendAll) : await sendAll());

async function sendAll(): Promise<boolean> {
  for (;;) {
    await look();
    const all = known.filter((one) => !one.sent && one.why === undefined);
    const other = all.findIndex((one) => isFind(one) !== isFind(all[0] as Kept));
    const waiting = all.slice(0, Math.min(MOST_SENT, other < 0 ? all.length : other));
    if (waiting.length === 0) return true;
    try {
      await sendSome(waiting);
    } catch (error) {
      if (!isWrong(error) || !(await sendEach(waiting))) return false;
    }
  }
}

/** Whether it is the entries that are wrong, rather than the network or the server away. */
const isWrong = (error: unknown) =>
  error instanceof Refusal && error.status >= 400 && error.status < 500 && error.status !== 429;

async function sendSome(waiting: Kept[]) {
  const finds = waiting.filter(isFind).map((one) => one.entry);
  const pulled = waiting.filter(isPulled).map((one) => one.pulled);
  const { taken, refused } = await asked(
    finds.length > 0
      ? api.POST("/api/rounds/entries", { body: { entries: finds } })
      : api.POST("/api/rounds/pulled", { body: { entries: pulled } }),
  );
  const why = new Map(refused.map((one) => [one.uuid, one.why]));
  const there = new Set(taken);
  const answered = waiting.filter((one) => there.has(uuidOf(one)) || why.has(uuidOf(one)));
  if (answered.length === 0) throw new Refusal(0, "Rundgang did not say what became of the entries.", []);
  await mark(answered, (one) => ({ sent: there.has(uuidOf(one)), why: why.get(uuidOf(one)) }));
}

/** One by one: a wrong one does not keep the others. Whether all could be. */
async function sendEach(waiting: Kept[]): Promise<boolean> {
  for (const one of waiting)
    try {
      await sendSome([one]);
    } catch (error) {
      if (!isWrong(error)) return false;
      await mark([one], () => ({ why: [(error as Refusal).message, ...(error as Refusal).faults].join(" ") }));
    }
  return true;
}

/** Go on sending for as long as the page is there. */
export function keepSending() {
  void look().then(send);
  const again = setInterval(() => known.some((one) => !one.sent && one.why === undefined) && void send(), AGAIN_MS);
  window.addEventListener("online", send);
  return () => {
    clearInterval(again);
    window.removeEventListener("online", send);
  };
}

const WALKER = "walker";

export const walkerKept = async () => (await database()).get("shift", WALKER);

export async function keepWalker(walker: Walker | undefined) {
  const writing = (await database()).transaction("shift", "readwrite", { durability: "strict" });
  await (walker ? writing.store.put(walker, WALKER) : writing.store.delete(WALKER));
  await writing.done;
}

/** A line's round: as it is now, or, without a network, as it was read last. */
export async function roundOf(line: string): Promise<KnownRound & { fresh: boolean }> {
  const db = await database();
  const before = known.filter((one) => one.sent);
  try {
    const round = await asked(api.GET("/api/rounds", { params: { query: { line } } }));
    const read = { line, round, readAt: Date.now() };
    await db.put("rounds", read);
    await Promise.all(
      before.filter((one) => one.order !== undefined).map((one) => db.delete("entries", one.order as number)),
    );
    if (before.length > 0) await look();
    return { ...read, fresh: true };
  } catch (error) {
    const last = isWrong(error) ? undefined : await db.get("rounds", line);
    if (last) return { ...last, fresh: false };
    throw error;
  }
}

/** A number that nobody else makes: without `crypto.randomUUID`, which asks for a secure page (RFC 9562, section 5.4). */
export function uuid(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}
