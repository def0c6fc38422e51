/** What the screens ask for, each under one key, and what a change makes stale. */
import {
  keepPreviousData,
  QueryClient,
  type UseQueryResult,
  useInfiniteQuery,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useState } from "react";
import {
  api,
  asked,
  type Calendar,
  type Change,
  pastWindow,
  Refusal,
  type Schemas,
  type Search,
  type StoredOpening,
  sawVersion,
  sawWindow,
} from "./client";
import { changesItself, searchEnded } from "./events";

export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => failures < 2 && error instanceof Refusal && error.status === 0,
    },
  },
});

const MS_PER_MINUTE = 60_000;

/** A history is drawn in so many stretches. */
const SHOWN = 240;

/** So often a line is asked how it does; its counts come by themselves. */
const NOW_MS = 5_000;

/** So often a better plan is looked for. */
const OFFER_MS = 60_000;

/** So often it is asked how the rounds stand. */
const STANDING_MS = 30_000;

/** So many of a list are asked for at once. */
const PAGE = 100;

/** The window; what time it is there stands beside it, for the window itself may have been read before. */
const windowQuery = {
  queryKey: ["day"],
  queryFn: async () => {
    const answer = api.GET("/api/window");
    const day = await asked(answer);
    sawWindow(day.number);
    const now = (await answer).response.headers.get("Rundgang-Now");
    return now ? { ...day, now_min: (Date.parse(now) - Date.parse(day.window.starts_at)) / MS_PER_MINUTE } : day;
  },
};

export const usePlanningWindow = (enabled: boolean) => useQuery({ ...windowQuery, enabled });

const plantQuery = { queryKey: ["plant"], queryFn: () => asked(api.GET("/api/plant")) };

/** Whose plant there is; asked before all else. */
export const usePlant = () => useQuery(plantQuery);

/** How things stand at the stops of the walk. */
export const useWalk = (enabled: boolean) =>
  useQuery({ queryKey: ["walk"], enabled, queryFn: () => asked(api.GET("/api/walk")) });

/** The instruments, and how their sources do; asked for again and again, for they go silent by themselves. */
export const useInstruments = () =>
  useQuery({
    queryKey: ["instruments"],
    refetchInterval: NOW_MS,
    queryFn: () => asked(api.GET("/api/instruments")),
  });

export const useSetInstruments = () =>
  useChange(({ instruments, seen }: { instruments: Schemas["Instruments"]; seen: number }) =>
    asked(api.POST("/api/instruments", { body: { instruments, seen, author: author() } })),
  );

/** A plan that pays more than it disturbs, by what a line has done; asked for where a lorry gets less than planned. */
export const useOffer = (line: string, enabled: boolean) =>
  useQuery({
    queryKey: ["offer", line],
    enabled,
    refetchInterval: OFFER_MS,
    queryFn: async () => ({ offer: await asked(api.GET("/api/now/offer", { params: { query: { line } } })) }),
  });

export const useTakeOffer = () =>
  useChange((line: string) => asked(api.POST("/api/now/offer", { body: { line, author: author() } })));

/** What is checked on the walk, and what usually is. */
export const useInspections = () =>
  useQuery({ queryKey: ["inspections"], queryFn: () => asked(api.GET("/api/inspections")) });

export const useSetInspections = () =>
  useChange(({ inspections, seen }: { inspections: Schemas["Inspections"]; seen: number }) =>
    asked(api.POST("/api/inspections", { body: { inspections, seen, author: author() } })),
  );

/** How the rounds of all lines stand. */
export const useStanding = (enabled: boolean) =>
  useQuery({
    queryKey: ["standing"],
    enabled,
    refetchInterval: STANDING_MS,
    queryFn: () => asked(api.GET("/api/rounds/standing")),
  });

/** Look through a server; nothing changes. */
export const useFindNodes = () =>
  useMutation<Schemas["Found"], Refusal, string>({
    mutationFn: (endpoint) => asked(api.POST("/api/instruments/browse", { body: { endpoint } })),
  });

/** What a node says now. */
export const useAskNode = () =>
  useMutation<Schemas["NodeSays"], Refusal, Schemas["AskRequest"]>({
    mutationFn: (body) => asked(api.POST("/api/instruments/ask", { body })),
  });

/** What a signal was over the last hours. */
export const useSeries = (signal: Schemas["Signal"], hours: number) =>
  useQuery({
    queryKey: ["series", signal, hours],
    refetchInterval: NOW_MS,
    placeholderData: (previous) => previous,
    queryFn: () => asked(api.GET("/api/readings", { params: { query: { ...signal, hours, most: SHOWN } } })),
  });

/** How a line does now; asked for again and again, for it goes on by itself. */
export const useLineNow = (line: string | undefined) =>
  useQuery({
    queryKey: ["now", line],
    enabled: line !== undefined,
    refetchInterval: NOW_MS,
    queryFn: () => asked(api.GET("/api/now", { params: { query: { line: line ?? "" } } })),
  });

/** What every page needs is asked for while its code is still on its way. */
export async function askAhead(client: QueryClient) {
  const plant = await client.fetchQuery(plantQuery).catch(() => undefined);
  if (plant?.origin) void client.prefetchQuery(windowQuery);
}

export const useBringDemo = () => useChange((_: undefined) => asked(api.POST("/api/plant/demo")));

export const useBringPlant = () =>
  useChange(({ file, take }: LibraryUpload) =>
    asked(
      api.POST("/api/plant/file", {
        params: { query: { take } },
        body: file as unknown as string,
        bodySerializer: (body: unknown) => body as Blob,
        headers: { "Content-Type": file.name.endsWith(".xlsx") ? XLSX : "application/json" },
      }),
    ),
  );

/** Nothing that is shown is asked for again: there is nothing left of it. */
export const useDiscardDemo = () =>
  useMutation<Schemas["PlantState"], Refusal, string>({
    onMutate: changesItself,
    mutationFn: (name) => asked(api.POST("/api/plant/discard", { body: { name } })),
  });

export const usePatterns = () =>
  useQuery({
    queryKey: ["patterns"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/build/patterns")),
  });

/** What a draft can carry; what it names nothing yet is called something meanwhile. */
export const useTriedDraft = (draft: Schemas["Draft"]) => {
  const called = (name: string, otherwise: string) => (name.trim() === "" ? otherwise : name);
  const body = {
    ...draft,
    plant: called(draft.plant, "Plant"),
    town: called(draft.town, "Town"),
    line: called(draft.line, "Line"),
    products: draft.products.map((product, place) => ({
      ...product,
      name: called(product.name, `Product ${place + 1}`),
    })),
  };
  return useQuery({
    queryKey: ["draft", body],
    placeholderData: (previous) => previous,
    queryFn: () => asked(api.POST("/api/build/try", { body })),
  });
};

/** Whoever builds goes on to the new plant's own pages: nothing that is shown is asked for again. */
export const useBuild = () =>
  useMutation<Schemas["PlantState"], Refusal, Schemas["Draft"]>({
    onMutate: changesItself,
    onSettled: changesItself,
    mutationFn: (draft) => asked(api.POST("/api/build", { body: draft })),
  });

export const useWindows = () => useQuery({ queryKey: ["windows"], queryFn: () => asked(api.GET("/api/windows")) });

export const useNextWindow = () =>
  useChange((_: undefined) => asked(api.POST("/api/windows/next", { body: { author: author() } })));

export const useCalendar = () => useQuery({ queryKey: ["calendar"], queryFn: () => asked(api.GET("/api/calendar")) });

export const useSetCalendar = () =>
  useChange(({ calendar, seen }: { calendar: Calendar; seen: number }) =>
    asked(api.POST("/api/calendar", { body: { calendar, seen, author: author() } })),
  );

export const useStockEntries = () =>
  useQuery({ queryKey: ["stock-entries"], queryFn: () => asked(api.GET("/api/stock/entries")) });

export const useCountPacks = () =>
  useChange((request: Omit<Schemas["PacksRequest"], "author">) =>
    asked(api.POST("/api/stock/packs", { body: { ...request, author: author() } })),
  );

export const useCountMaterial = () =>
  useChange((request: Omit<Schemas["MaterialRequest"], "author">) =>
    asked(api.POST("/api/stock/materials", { body: { ...request, author: author() } })),
  );

export const useDeliver = () =>
  useChange((request: Omit<Schemas["DeliveryRequest"], "author">) =>
    asked(api.POST("/api/stock/deliveries", { body: { ...request, author: author() } })),
  );

export const useOrders = () => useQuery({ queryKey: ["orders"], queryFn: () => asked(api.GET("/api/orders")) });

export const useBooks = () =>
  useOlder(["books"], (before) => asked(api.GET("/api/orders/books", { params: { query: { before, most: PAGE } } })));

/** A list that comes newest first, a page at a time: what there is so far, and how to get older ones. */
function useOlder<Item extends { number: number }>(key: string[], ask: (before?: number) => Promise<Item[]>) {
  return useOlderBy(key, ask, (one) => one.number);
}

/** The same of things that have their number elsewhere. */
function useOlderBy<Item>(key: string[], ask: (before?: number) => Promise<Item[]>, numberOf: (one: Item) => number) {
  const name = key.join();
  const [wanted, setWanted] = useState({ name, pages: 1 });
  const { data, ...rest } = useInfiniteQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) => ask(pageParam),
    getNextPageParam: (last) => {
      const end = last.at(-1);
      return last.length === PAGE && end !== undefined ? numberOf(end) : undefined;
    },
  });
  const { fetchNextPage, hasNextPage, isFetching, isError } = rest;
  const pages = data?.pages.length ?? 0;
  const lacks = wanted.name === name && pages > 0 && pages < wanted.pages && hasNextPage;
  // What has changed meanwhile is asked for first, and lets go of a page that was on its way: so a page is asked for until it is there.
  useEffect(() => {
    if (lacks && !isFetching && !isError) void fetchNextPage();
  }, [lacks, isFetching, isError, fetchNextPage]);
  const older = () => {
    setWanted({ name, pages: pages + 1 });
    if (isError) void fetchNextPage();
  };
  return { ...rest, data: data?.pages.flat(), older };
}

/** The plan that was made last, of whichever line. */
export const useNewestPlan = () =>
  useQuery({ queryKey: ["plan", "newest"], queryFn: () => asked(api.GET("/api/plans/newest")) });

/** Some plans by their numbers, once all are there. */
export const usePlansOf = (numbers: number[]) =>
  useQueries({
    queries: numbers.map((number) => ({
      queryKey: ["plan", number],
      queryFn: () => asked(api.GET("/api/plans/{number}", { params: { path: { number } } })),
    })),
    combine: together,
  });

/** The plans that the floor works by, of some lines, once all are there. */
export const useLivePlans = (lines: string[]) =>
  useQueries({
    queries: lines.map((line) => ({
      queryKey: ["plan", "floor", line],
      queryFn: () => asked(api.GET("/api/plans/newest", { params: { query: { line, floor: true } } })),
    })),
    combine: together,
  });

/** Some answers as one: their data once all are there, or the first error. */
function together<Data>(results: UseQueryResult<Data>[]) {
  const found = results.flatMap(({ data }) => (data === undefined ? [] : [data]));
  return {
    data: results.length > 0 && found.length === results.length ? found : undefined,
    error: results.find(({ error }) => error)?.error,
    isFetching: results.some(({ isFetching }) => isFetching),
  };
}

/** A version of the plant's plan, of one line or of all; without a number the newest. */
export const useVersion = (number: number | undefined, line: string | undefined) =>
  useQuery({
    queryKey: ["version", number ?? "newest", line ?? "all"],
    placeholderData: (previous) => previous,
    queryFn: async () => {
      const found =
        number === undefined
          ? await asked(api.GET("/api/versions/newest", { params: { query: { line } } }))
          : await asked(api.GET("/api/versions/{number}", { params: { path: { number }, query: { line } } }));
      sawVersion(found.newest);
      if (number === undefined) queries.setQueryData(["version", found.note.number, line ?? "all"], found);
      return found;
    },
  });

export const useVersions = () =>
  useOlder(["versions"], (before) => asked(api.GET("/api/versions", { params: { query: { before, most: PAGE } } })));

export const useComparison = (before: number | undefined, after: number | undefined) =>
  useQuery({
    queryKey: ["comparison", before, after],
    enabled: before !== undefined && after !== undefined && before !== after,
    queryFn: () =>
      asked(
        api.GET("/api/versions/{number}/compare/{other}", {
          params: { path: { number: before ?? 0, other: after ?? 0 } },
        }),
      ),
  });

export type OfRun = { version: number; line: string; run: string };

export const useWhy = ({ version, line, run }: OfRun) =>
  useQuery({
    queryKey: ["why", version, line, run],
    queryFn: () =>
      asked(
        api.GET("/api/versions/{number}/lines/{line}/runs/{run}/why", {
          params: { path: { number: version, line, run } },
        }),
      ),
  });

export const useChangeCosts = (version: number, line: string) =>
  useQuery({
    queryKey: ["changes", version, line],
    queryFn: () =>
      asked(api.GET("/api/versions/{number}/lines/{line}/changes", { params: { path: { number: version, line } } })),
  });

export type OfLorry = { version: number; line: string; wave: string; product: string };

export const useLateness = ({ version, line, wave, product }: OfLorry, wanted: boolean) =>
  useQuery({
    queryKey: ["late", version, line, wave, product],
    enabled: wanted,
    queryFn: () =>
      asked(
        api.GET("/api/versions/{number}/lines/{line}/late/{wave}/{product}", {
          params: { path: { number: version, line, wave, product } },
        }),
      ),
  });

export const useWaysIn = ({ version, line, wave, product }: OfLorry, wanted: boolean) =>
  useQuery({
    queryKey: ["ways in", version, line, wave, product],
    enabled: wanted,
    queryFn: () =>
      asked(
        api.GET("/api/versions/{number}/lines/{line}/late/{wave}/{product}/ways-in", {
          params: { path: { number: version, line, wave, product } },
        }),
      ),
  });

export const useMoney = (number: number) =>
  useQuery({
    queryKey: ["money", number],
    queryFn: () => asked(api.GET("/api/versions/{number}/money", { params: { path: { number } } })),
  });

export const useOpening = () => useQuery({ queryKey: ["opening"], queryFn: () => asked(api.GET("/api/opening")) });

export const useDemand = () => useQuery({ queryKey: ["demand"], queryFn: () => asked(api.GET("/api/demand")) });

const LOOKS_AFTER_SEARCHES_MS = 5_000;

/** The searches that wait or run. They are told as they go; looked after too, for a worker that is lost tells nothing. */
export const useSearches = () =>
  useQuery({
    queryKey: ["searches"],
    enabled: pastWindow === undefined,
    refetchInterval: ({ state }) => (state.data?.length ? LOOKS_AFTER_SEARCHES_MS : false),
    queryFn: async () => {
      const before = queries.getQueryData<Search[]>(["searches"]) ?? [];
      const now = await asked(api.GET("/api/searches"));
      for (const { job } of before.filter((known) => !now.some((one) => one.job === known.job)))
        searchEnded(await asked(api.GET("/api/searches/{job}", { params: { path: { job } } })));
      return now;
    },
  });

/** The cards of some plans, once all are there. */
export const useCardsOf = (numbers: number[]) =>
  useQueries({
    queries: numbers.map((number) => ({
      queryKey: ["cards", number],
      queryFn: () => asked(api.GET("/api/plans/{number}/cards", { params: { path: { number } } })),
    })),
    combine: together,
  });

export const useBatching = (number: number, run: string) =>
  useQuery({
    queryKey: ["batching", number, run],
    queryFn: () => asked(api.GET("/api/plans/{number}/runs/{run}/batching", { params: { path: { number, run } } })),
  });

export type BalanceRequest = { pace?: number; setting: Schemas["Setting"] };

export const useBalance = (line = "", product = "", request: BalanceRequest = { setting: {} }) =>
  useQuery({
    queryKey: ["balance", line, product, request],
    enabled: line !== "" && product !== "",
    placeholderData: (previous) => previous,
    queryFn: () =>
      asked(api.POST("/api/lines/{line}/balance/{product}", { params: { path: { line, product } }, body: request })),
  });

export const useMaterials = () =>
  useQuery({ queryKey: ["materials"], queryFn: () => asked(api.GET("/api/materials")) });

export const useUnitTable = () =>
  useQuery({
    queryKey: ["units"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/units")),
  });

export const useCalculators = () =>
  useQuery({
    queryKey: ["calculators"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/calculators")),
  });

/** A product's own figures for the calculators. */
export const useReady = (product: string | undefined) =>
  useQuery({
    queryKey: ["ready", product],
    enabled: product !== undefined,
    queryFn: () =>
      asked(api.GET("/api/products/{product}/calculators", { params: { path: { product: product ?? "" } } })),
  });

/** The answer to a question; the figures are metric. */
export const useAnswer = (entry: string, question: Record<string, string>, complete: boolean) =>
  useQuery({
    queryKey: ["answer", entry, question],
    enabled: complete,
    placeholderData: (previous) => previous,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      asked(api.POST("/api/calculators/{entry_id}", { params: { path: { entry_id: entry } }, body: question })),
  });

/** A version that is made here has been seen. */
const isMade = (done: unknown): done is { version: number } =>
  typeof done === "object" && done !== null && "version" in done && typeof done.version === "number";

/** Somebody else was first: what they did is asked for at once. */
export const CHANGED_MEANWHILE = 409;

/** A change: when it is done, everything shown is asked for again. */
function useChange<Request, Done>(change: (request: Request) => Promise<Done>) {
  const client = useQueryClient();
  return useMutation<Done, Refusal, Request>({
    mutationFn: change,
    onMutate: changesItself,
    onSettled: changesItself,
    onSuccess: (done) => {
      if (isMade(done)) sawVersion(done.version);
      client.invalidateQueries();
    },
    onError: (error) => error.status === CHANGED_MEANWHILE && client.invalidateQueries(),
  });
}

/** Who changes things here: kept in this browser until there are sessions. */
export const author = () => localStorage.getItem("rundgang-author") || "planner";

export const useChangeVersion = () =>
  useChange(({ version, change }: { version: number; change: Change }) =>
    asked(
      api.POST("/api/versions/{number}/changes", {
        params: { path: { number: version } },
        body: { change, author: author() },
      }),
    ),
  );

/** What a change would do; nothing is stored, nothing shown is asked for again. */
export const tryChange = (version: number, change: Change) =>
  asked(
    api.POST("/api/versions/{number}/tries", {
      params: { path: { number: version } },
      body: { change, author: author() },
    }),
  );

export const useRestoreVersion = () =>
  useChange(async ({ number, action }: { number: number; action: number }) => {
    const made = await asked(
      api.POST("/api/versions/{number}/restore", {
        params: { path: { number } },
        body: { author: author(), action },
      }),
    );
    sawVersion(made.note.number);
    return made;
  });

export const usePublish = () =>
  useChange((number: number) =>
    asked(api.POST("/api/versions/{number}/publish", { params: { path: { number } }, body: { author: author() } })),
  );

export const useAskSearch = () =>
  useChange((request: Omit<Schemas["SearchRequest"], "author">) =>
    asked(api.POST("/api/searches", { body: { ...request, author: author() } })),
  );

export const stopSearch = (job: number) => asked(api.POST("/api/searches/{job}/stop", { params: { path: { job } } }));

export const useSetOpening = () =>
  useChange(({ number, finished, blocks, heated, worn, last }: StoredOpening) =>
    asked(api.POST("/api/opening", { body: { finished, blocks, heated, worn, last, seen: number, author: author() } })),
  );

export const useCloseStation = () =>
  useChange((closing: Omit<Schemas["ClosingRequest"], "author">) =>
    asked(api.POST("/api/opening/closings", { body: { ...closing, author: author() } })),
  );

export type StopRequest = Schemas["StopRequest"];

/** What a stop does; nothing is changed by asking. */
/** Why a station can stand. */
export const useCauses = () =>
  useQuery({
    queryKey: ["causes"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/trouble/causes")),
  });

/** The stops that somebody has told, newest first. */
export const useTroubles = () =>
  useOlder(["trouble"], (before) => asked(api.GET("/api/trouble", { params: { query: { before, most: PAGE } } })));

export const useTrouble = (number: number) =>
  useQuery({
    queryKey: ["trouble", number],
    queryFn: () => asked(api.GET("/api/trouble/{number}", { params: { path: { number } } })),
  });

/** A station stands. */
export const useBeginStop = () =>
  useChange((request: Omit<Schemas["BegunRequest"], "author">) =>
    asked(api.POST("/api/trouble", { body: { ...request, author: author() } })),
  );

/** What became of a stop. */
export const useNoteStop = () =>
  useChange(({ number, ...request }: { number: number } & Omit<Schemas["EventRequest"], "author">) =>
    asked(
      api.POST("/api/trouble/{number}/events", {
        params: { path: { number } },
        body: { ...request, author: author() },
      }),
    ),
  );

/** What a stop does, asked anew as it goes on. */
export const useTroubleEffect = (stop: StopRequest | undefined) =>
  useQuery({
    queryKey: ["trouble-effect", stop],
    enabled: stop !== undefined,
    placeholderData: (previous) => previous,
    queryFn: () => asked(api.POST("/api/trouble/effect", { body: stop as StopRequest })),
  });

type Told = Schemas["StopOption"] | { cheapest: number | null; version: number } | { failed: string };

/** The options of a stop as they come, one after the other; and at the end which is cheapest. */
export async function* optionsOf(stop: StopRequest, signal: AbortSignal) {
  const answer = await fetch("/api/trouble/options", {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(stop),
    signal,
  });
  if (!answer.ok || !answer.body) {
    const problem = (await answer.json().catch(() => ({}))) as { title?: string; faults?: string[] };
    throw new Refusal(answer.status, problem.title ?? "The options cannot be told.", problem.faults ?? []);
  }
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    rest += value ?? "";
    const lines = rest.split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) {
      const one = JSON.parse(line) as Told;
      if ("failed" in one) throw new Refusal(422, one.failed, []);
      yield one;
    }
    if (done) return;
  }
}

export const useStopAdvice = () =>
  useMutation<Schemas["StopAdvice"], Refusal, { version: number; stop: StopRequest }>({
    mutationFn: ({ version, stop }) =>
      asked(api.POST("/api/versions/{number}/stops", { params: { path: { number: version } }, body: stop })),
  });

/** What happened to a begun run otherwise than planned: a new version, by which the floor works. */
export const useHappened = () =>
  useChange(({ version, happened }: { version: number; happened: Schemas["HappenedRequest"]["happened"] }) =>
    asked(
      api.POST("/api/versions/{number}/happened", {
        params: { path: { number: version } },
        body: { happened, author: author() },
      }),
    ),
  );

/** A run that is on a line and in no plan; one from before the window makes that begin earlier. */
export const useEnterRun = () =>
  useChange(({ version, run }: { version: number; run: Schemas["OnLineRequest"] }) =>
    asked(
      api.POST("/api/versions/{number}/on-line", {
        params: { path: { number: version } },
        body: { run, author: author() },
      }),
    ),
  );

export const useTakeOption = () =>
  useChange(({ version, ...request }: { version: number } & Omit<Schemas["TakenRequest"], "author">) =>
    asked(
      api.POST("/api/versions/{number}/stops/taken", {
        params: { path: { number: version } },
        body: { ...request, author: author() },
      }),
    ),
  );

export const useChangeLine = () =>
  useChange(({ version, ...request }: { version: number; line: string; run: string; to: string }) =>
    asked(
      api.POST("/api/versions/{number}/lines", {
        params: { path: { number: version } },
        body: { ...request, author: author() },
      }),
    ),
  );

export const useUrgentOrder = () =>
  useChange((order: Omit<Schemas["Order"], "priority">) =>
    asked(api.POST("/api/orders/urgent", { body: { order: { ...order, priority: 1 }, author: author() } })),
  );

/** A file of orders; `columns` names the headings that it has, where they are not ours. */
export type Upload = { text: Blob; name: string; mode: "add" | "replace"; columns?: string };

const XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

const sheet = (text: Blob, name: string) => ({
  body: text as unknown as string,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { "Content-Type": name.toLowerCase().endsWith(".xlsx") ? XLSX : "text/csv" },
});

/** Files of the inbox that wait for the planner; looked for again every half a minute. */
export const useHeldFiles = () =>
  useQuery({
    queryKey: ["held-files"],
    refetchInterval: 30_000,
    queryFn: () => asked(api.GET("/api/orders/held")),
  });

export const useOrderColumns = () =>
  useQuery({ queryKey: ["order-columns"], queryFn: () => asked(api.GET("/api/orders/columns")) });

export const useKeepColumns = () =>
  useChange((body: Schemas["OrderColumns"]) => asked(api.POST("/api/orders/columns", { body })));

export const useReadOrders = () =>
  useMutation<Schemas["ReadView"], Refusal, Upload>({
    mutationFn: ({ text, name, mode, columns }) =>
      asked(api.POST("/api/orders/read", { params: { query: { mode, columns } }, ...sheet(text, name) })),
  });

export const useImportOrders = () =>
  useChange(({ text, name, mode, columns, take }: Upload & { take: "all" | "good" }) =>
    asked(api.POST("/api/orders/import", { params: { query: { mode, take, name, columns } }, ...sheet(text, name) })),
  );

export const useRestoreBook = () =>
  useChange((number: number) =>
    asked(api.POST("/api/orders/books/{number}/restore", { params: { path: { number } } })),
  );

export const useFriction = (product: string, mixer: string) =>
  useQuery({
    queryKey: ["friction", product, mixer],
    queryFn: () => asked(api.GET("/api/friction", { params: { query: { product, mixer } } })),
  });

export const useSetConditions = () =>
  useChange((body: Schemas["ConditionsRequest"]) => asked(api.POST("/api/conditions", { body })));

type OfDough = { plan: number; run: string; batch: number };

export const useProbe = () =>
  useChange(({ plan, run, batch, ...body }: OfDough & Schemas["ProbeRequest"]) =>
    asked(
      api.POST("/api/plans/{number}/cards/{run}/{batch}/probe", {
        params: { path: { number: plan, run, batch } },
        body,
      }),
    ),
  );

/** The probe of a dough does not count: it stays in the log, with the reason. */
export const useWithdrawProbe = () =>
  useChange(({ plan, run, batch, reason }: OfDough & { reason: string }) =>
    asked(
      api.POST("/api/plans/{number}/cards/{run}/{batch}/probe/withdraw", {
        params: { path: { number: plan, run, batch } },
        body: { reason, author: author() },
      }),
    ),
  );

export const useConditionsRead = () =>
  useQuery({ queryKey: ["conditions-read"], queryFn: () => asked(api.GET("/api/conditions")) });

/** What was read does not count: it stays in the list, with the reason. */
export const useWithdrawConditions = () =>
  useChange(({ number, reason }: { number: number; reason: string }) =>
    asked(
      api.POST("/api/conditions/{number}/withdraw", {
        params: { path: { number } },
        body: { reason, author: author() },
      }),
    ),
  );

export type OddBatch = "equal" | "short-last" | "round-up";

export const useChangeOrder = () =>
  useChange((request: { order: Schemas["MovedOrder"]; packs: number | null }) =>
    asked(api.POST("/api/orders/change", { body: { ...request, author: author() } })),
  );

export const useMoveOrders = () =>
  useChange((request: Omit<Schemas["MoveRequest"], "author">) =>
    asked(api.POST("/api/orders/moves", { body: { ...request, author: author() } })),
  );

export const useTakeStock = () =>
  useChange((file: File) =>
    asked(
      api.POST("/api/stock/file", {
        params: { query: { name: file.name, author: author() } },
        body: file as unknown as string,
        bodySerializer: (body: unknown) => body as Blob,
        headers: { "Content-Type": "text/csv" },
      }),
    ),
  );

export const useWeather = () => useQuery({ queryKey: ["weather"], queryFn: () => asked(api.GET("/api/weather")) });

export const useLibrary = () => useQuery({ queryKey: ["library"], queryFn: () => asked(api.GET("/api/library")) });

export const useLibrarySchemas = () =>
  useQuery({
    queryKey: ["library-schemas"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/library/schemas")),
  });

/** What each kind of station is called. */
export const useStationKinds = () =>
  useQuery({
    queryKey: ["station-kinds"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/library/kinds")),
  });

/** By kind, what a new station and its step begin from. */
export const useStarters = () =>
  useQuery({
    queryKey: ["starters"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/library/starters")),
  });

const TYPING_MS = 250;

/** What a draft of the library would do; asked once one has stopped typing, and shown until the next answer. */
export const useTriedLibrary = (edits: Schemas["Edit"][], product: string | undefined, version: number) =>
  useQuery<Schemas["Trial"], Refusal>({
    queryKey: ["tried-library", version, product, edits],
    placeholderData: (previous) => previous,
    queryFn: async ({ signal }) => {
      await new Promise((resolve) => setTimeout(resolve, TYPING_MS));
      if (signal.aborted) throw new Refusal(0, "Typed on meanwhile.", []);
      return asked(api.POST("/api/library/try", { body: { edits, product: product ?? null } }));
    },
  });

export const useLibraryVersions = () =>
  useQuery({ queryKey: ["library-versions"], queryFn: () => asked(api.GET("/api/library/versions")) });

export const useChangeLibrary = () =>
  useChange((body: Schemas["LibraryChange"]) => asked(api.POST("/api/library/change", { body })));

export const useRestoreLibrary = () =>
  useChange((number: number) =>
    asked(api.POST("/api/library/versions/{number}/restore", { params: { path: { number } } })),
  );

export type LibraryUpload = { file: File; take: boolean };

export const useTakeLibrary = () =>
  useChange(({ file, take }: LibraryUpload) =>
    asked(
      api.POST("/api/library/file", {
        params: { query: { take, name: file.name } },
        body: file as unknown as string,
        bodySerializer: (body: unknown) => body as Blob,
        headers: { "Content-Type": file.name.endsWith(".xlsx") ? XLSX : "application/json" },
      }),
    ),
  );

/** An entry's own id: sent twice, it is there once. */
const own = () => ({ uuid: crypto.randomUUID(), author: author() });

/** Lots with some words on their labels, newest first, a page at a time. */
export const useLots = (words: string) =>
  useOlderBy(
    ["lots", words],
    (before) => asked(api.GET("/api/lots", { params: { query: { words, before, most: PAGE } } })),
    (line) => line.lot.number,
  );

/** The lot that some words can only mean; a scanner does not wait until a list is there. */
export const useMeantLot = () =>
  useMutation<Schemas["LotLine"] | undefined, Refusal, string>({
    mutationFn: async (words) => {
      const found = await asked(api.GET("/api/lots", { params: { query: { words, most: PAGE } } }));
      return found.length === 1 ? found[0] : found.find(({ lot }) => lot.code === words);
    },
  });

/** A lot with both its ways. */
export const useLot = (number: number) =>
  useQuery({
    queryKey: ["lots", number],
    queryFn: () => asked(api.GET("/api/lots/{number}", { params: { path: { number } } })),
  });

export type OfLot = { number: number; reason: string };

export const useHold = () =>
  useChange(({ number, reason, onward }: OfLot & { onward: boolean }) =>
    asked(api.POST("/api/lots/{number}/hold", { params: { path: { number } }, body: { ...own(), reason, onward } })),
  );

export const useRelease = () =>
  useChange(({ number, reason, onward }: OfLot & { onward: boolean }) =>
    asked(api.POST("/api/lots/{number}/release", { params: { path: { number } }, body: { ...own(), reason, onward } })),
  );

export const useScrap = () =>
  useChange(({ number, ...why }: OfLot & Pick<Schemas["ScrapRequest"], "packs" | "cause">) =>
    asked(api.POST("/api/lots/{number}/scrap", { params: { path: { number } }, body: { ...own(), ...why } })),
  );

export const useClear = () =>
  useChange((lots: number[]) => asked(api.POST("/api/lots/clear", { body: { ...own(), lots } })));

export type BatchOf = { line: string; run: string; key: string };

/** A batch as it is weighed up. */
export const useGuide = (batch: BatchOf) =>
  useQuery({
    queryKey: ["guide", batch],
    queryFn: () => asked(api.GET("/api/weighing", { params: { query: batch } })),
  });

/** What was weighed; tried again it has the same id, so that it is there once. */
export const useWeigh = () =>
  useChange((entry: Omit<Schemas["WeighedEntry"], "author">) =>
    asked(api.POST("/api/weighing/weighed", { body: { ...entry, author: author() } })),
  );

export const useTap = () =>
  useChange((entry: Omit<Schemas["TapEntry"], "author" | "uuid">) =>
    asked(api.POST("/api/weighing/taps", { body: { ...entry, ...own() } })),
  );

/** What a mixer's scale or probe shows now. */
export const useShown = (line: string, station: string, quantity: Schemas["Signal"]["quantity"]) =>
  useQuery({
    queryKey: ["shown", line, station, quantity],
    refetchInterval: NOW_MS,
    queryFn: () => asked(api.GET("/api/weighing/instrument", { params: { query: { line, station, quantity } } })),
  });

/** What the probe shows where a run's doughs are mixed. */
export const useProbeShown = (plan: number, run: string) =>
  useQuery({
    queryKey: ["shown", plan, run],
    refetchInterval: NOW_MS,
    queryFn: () => asked(api.GET("/api/weighing/probe", { params: { query: { plan, run } } })),
  });

/** A line's account of some hours; without them of the last that are over. */
export const useAccount = (line: string, since: string | undefined, until: string | undefined) =>
  useQuery({
    queryKey: ["account", line, since, until],
    enabled: line !== "",
    placeholderData: (previous) => previous,
    queryFn: () => asked(api.GET("/api/account", { params: { query: { line, since, until } } })),
  });

export type AccountBy = Schemas["AccountTable"]["by"];

/** Accounts beside each other, of a line or of all. */
export const useAccountTable = (
  by: AccountBy | undefined,
  line: string | undefined,
  since: string | undefined,
  until: string | undefined,
) =>
  useQuery({
    queryKey: ["account", "table", by, line, since, until],
    enabled: by !== undefined,
    placeholderData: (previous) => previous,
    queryFn: () =>
      asked(api.GET("/api/account/table", { params: { query: { by: by ?? "shift", line, since, until } } })),
  });

/** What was handed over last on a line. */
export const useNewestNote = (line: string) =>
  useQuery({
    queryKey: ["handover", line],
    enabled: line !== "",
    queryFn: () => asked(api.GET("/api/account/notes/newest", { params: { query: { line } } })),
  });

export const useHandOver = () =>
  useChange((note: { line: string; says: string }) =>
    asked(api.POST("/api/account/notes", { body: { ...own(), ...note } })),
  );

/** The last mock recalls. */
export const useMockRecalls = () =>
  useQuery({ queryKey: ["recalls"], queryFn: () => asked(api.GET("/api/mock-recalls")) });

export const useMockRecall = (number: number) =>
  useQuery({
    queryKey: ["recalls", number],
    queryFn: () => asked(api.GET("/api/mock-recalls/{number}", { params: { path: { number } } })),
  });

export const useBeginRecall = () => useChange(() => asked(api.POST("/api/mock-recalls", { body: own() })));

export const useAnswerRecall = () =>
  useChange(({ number, ...body }: { number: number } & Schemas["AnswerRequest"]) =>
    asked(api.POST("/api/mock-recalls/{number}/answer", { params: { path: { number } }, body })),
  );

export const usePrintLabel = () =>
  useChange(({ number, copies }: { number: number; copies: number }) =>
    asked(api.POST("/api/lots/{number}/label/print", { params: { path: { number } }, body: { copies } })),
  );

/** A line's tools and its cleaning; asked for again and again, for what passes wears. */
export const useUpkeep = (line: string) =>
  useQuery({
    queryKey: ["upkeep", line],
    enabled: line !== "",
    refetchInterval: STANDING_MS,
    queryFn: () => asked(api.GET("/api/upkeep/{line}", { params: { path: { line } } })),
  });

type UpkeepTold = { line: string } & Omit<Schemas["UpkeepTold"], "uuid" | "author">;

export const useTellUpkeep = () =>
  useChange(({ line, ...body }: UpkeepTold) =>
    asked(api.POST("/api/upkeep/{line}/entries", { params: { path: { line } }, body: { ...own(), ...body } })),
  );

type UpkeepReleased = { line: string; number: number; author: string };

export const useReleaseUpkeep = () =>
  useChange(({ line, number, author }: UpkeepReleased) =>
    asked(
      api.POST("/api/upkeep/{line}/entries/{number}/release", {
        params: { path: { line, number } },
        body: { author },
      }),
    ),
  );

/** What the record teaches about a line. */
export const useLessons = (line: string) =>
  useQuery({
    queryKey: ["lessons", line],
    enabled: line !== "",
    queryFn: () => asked(api.GET("/api/learning/{line}", { params: { path: { line } } })),
  });

/** What lessons would do to the newest plan. */
export const useTriedLessons = (line: string, taken: Schemas["TakenLesson"][]) =>
  useQuery({
    queryKey: ["tried-lessons", line, taken],
    enabled: taken.length > 0,
    placeholderData: (previous) => previous,
    queryFn: () => asked(api.POST("/api/learning/{line}/try", { params: { path: { line } }, body: { taken } })),
  });

type LessonsTaken = { line: string; based_on: number; taken: Schemas["TakenLesson"][] };

export const useTakeLessons = () =>
  useChange(({ line, based_on, taken }: LessonsTaken) =>
    asked(
      api.POST("/api/learning/{line}/take", {
        params: { path: { line } },
        body: { based_on, taken, author: author() },
      }),
    ),
  );

type LessonsLeft = { line: string; reason: string; left: readonly Schemas["LineLesson"][] };

export const useLeaveLessons = () =>
  useChange(({ line, reason, left }: LessonsLeft) =>
    Promise.all(
      left.map(({ key, estimate: { low, high } }) =>
        asked(
          api.POST("/api/learning/{line}/leave", {
            params: { path: { line } },
            body: { lesson: key, low, high, reason, author: author() },
          }),
        ),
      ),
    ),
  );

/** A line's control charts; asked for again and again, for scales go on reading. */
export const useQuality = (line: string | undefined) =>
  useQuery({
    queryKey: ["quality", line],
    enabled: line !== undefined,
    refetchInterval: STANDING_MS,
    queryFn: () => asked(api.GET("/api/quality", { params: { query: { line: line ?? "" } } })),
  });

/** How sure a line's plan is: the same for the same plan. */
export const useOdds = (number: number | undefined) =>
  useQuery({
    queryKey: ["odds", number],
    enabled: number !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => asked(api.GET("/api/odds/{number}", { params: { path: { number: number ?? 0 } } })),
  });

/** Plans by which a line is surer: looked after while a search finds them. */
export const useSurerPlans = (line: string) =>
  useQuery({
    queryKey: ["surer", line],
    enabled: line !== "",
    refetchInterval: ({ state }) => (isUnderWay(state.data?.search) ? SURER_MS : false),
    queryFn: () => asked(api.GET("/api/odds/surer", { params: { query: { line } } })),
  });

const SURER_MS = 1_000;

/** So long plans are looked for, s. */
const SURER_S = 30;

export const isUnderWay = (search: Search | null | undefined) =>
  search?.state === "waiting" || search?.state === "running";

export const useAskSurer = () =>
  useChange((wish: Schemas["Wish"]) =>
    asked(api.POST("/api/odds/surer", { body: { wish, seconds: SURER_S, author: author() } })),
  );

export const useTakeSurer = () =>
  useChange(({ job, number }: { job: number; number: number }) =>
    asked(
      api.POST("/api/odds/surer/{job}/{number}", { params: { path: { job, number } }, body: { author: author() } }),
    ),
  );

/** What changes to a line would be worth: looked after while a search compares them. */
export const useWorth = (line: string) =>
  useQuery({
    queryKey: ["worth", line],
    enabled: line !== "",
    refetchInterval: ({ state }) => (isUnderWay(state.data?.search) ? SURER_MS : false),
    queryFn: () => asked(api.GET("/api/odds/worth", { params: { query: { line } } })),
  });

/** So long changes are compared, s. */
const COMPARED_S = 60;

export const useCompare = () =>
  useChange((line: string) =>
    asked(api.POST("/api/odds/worth", { body: { line, seconds: COMPARED_S, author: author() } })),
  );

/** The lorries around this moment. */
export const useDispatch = () =>
  useQuery({
    queryKey: ["dispatch"],
    refetchInterval: STANDING_MS,
    queryFn: () => asked(api.GET("/api/dispatch")),
  });

export const useLoad = () =>
  useChange((entry: { lorry: string; lot: number; packs: number; reason: string }) =>
    asked(api.POST("/api/dispatch/loads", { body: { ...entry, ...own() } })),
  );

export const useLoadOldest = () =>
  useChange((entry: { lorry: string; product: string }) =>
    asked(api.POST("/api/dispatch/loads/oldest", { body: { ...entry, ...own() } })),
  );

export const useLeave = () =>
  useChange((entry: { lorry: string; reasons: Record<string, string> }) =>
    asked(api.POST("/api/dispatch/left", { body: { ...entry, ...own() } })),
  );
