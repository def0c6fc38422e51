/** The typed client of Rundgang's API, and its errors as people should read them. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type PlanningWindow = Schemas["WindowView"];
export type PlanView = Schemas["PlanView"];
export type VersionView = Schemas["VersionView"];
export type VersionNote = Schemas["VersionNote"];
export type Change = Schemas["ChangeRequest"]["change"];
export type Tried = Schemas["Tried"];
export type Moved = Schemas["Moved"];
export type Binding = Schemas["Binding"];
export type Search = Schemas["SearchState"];
export type Weights = Schemas["Weights"];
export type StoredOpening = Schemas["OpeningView"];
export type Run = Schemas["Run"];
export type Timeline = Schemas["Timeline"];
export type Meeting = Schemas["Meeting"];
export type Card = Schemas["BatchCard"];
export type LineBalance = Schemas["LineBalance"];
export type Calculator = Schemas["EntryView"];
export type Answer = Schemas["Answer"];
export type Supply = Schemas["ItemSupply"];
export type Unit = Schemas["Unit"];
export type OrderFile = Schemas["OrderFile"];

export type Calendar = Schemas["Calendar"];
export type DepartureView = Schemas["DepartureView"];
export type WindowNote = Schemas["WindowNote"];

/** The earlier window that this page reads, by its address; undefined on the one that is planned. */
export const pastWindow = Number(location.pathname.match(/^\/windows\/(\d+)(\/|$)/)?.[1]) || undefined;

/** Under which address the pages of a window stand. */
export const windowAddress = (number: number) => `/windows/${number}`;

/** A page's address, in the window on the page. */
export const windowedPath = (path: string) => (pastWindow ? `${windowAddress(pastWindow)}${path}` : path);

/** Where a file of the window on the page is downloaded from. */
export const fileAddress = (path: string) =>
  pastWindow ? `${path}${path.includes("?") ? "&" : "?"}window=${pastWindow}` : path;

let seen: number | undefined;
let version: number | undefined;

/** The newest version that has been seen here: a change of the plan says so, and is refused where another has come. */
export const sawVersion = (number: number) => {
  version = Math.max(version ?? 0, number);
};

/** Which window is on the page: every change says so, and is refused where it has gone on meanwhile. */
export const sawWindow = (number: number) => {
  if (seen !== number) version = undefined;
  seen = number;
};

export const api = createClient<paths>();

api.use({
  onRequest({ request }) {
    const window = pastWindow ?? (request.method === "GET" ? undefined : seen);
    if (window !== undefined) request.headers.set("Rundgang-Window", String(window));
    if (version !== undefined && request.method !== "GET") request.headers.set("Rundgang-Version", String(version));
    return request;
  },
});

/** A refusal: what is wrong, and each fault on a line of its own. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly faults: string[],
    /** Whether it is a question: the same is taken once it is confirmed. */
    readonly asks = false,
  ) {
    super(title);
  }
}

type Outcome<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or a Refusal. */
export async function asked<T>(answer: Promise<Outcome<T>>): Promise<T> {
  let settled: Outcome<T>;
  try {
    settled = await answer;
  } catch {
    throw new Refusal(0, "Rundgang does not answer. Is it still running? Nothing was changed.", []);
  }
  if (settled.data !== undefined) return settled.data;
  const problem = (settled.error ?? {}) as { title?: string; faults?: string[]; asks?: boolean };
  const title = problem.title ?? `The application answered ${settled.response.status}.`;
  throw new Refusal(settled.response.status, title, problem.faults ?? [], problem.asks);
}

/** The doughs that are mixed for a run: all but the rest of another run's. */
export const mixedFor = (run: Run) => run.batches.filter((batch) => !batch.shared);
