/** Without a network the walk opens as it was opened last; all else asks the server, as if this were not here. */
import { cleanupOutdatedCaches, type PrecacheEntry, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";

type Lasting = Event & { waitUntil: (done: Promise<unknown>) => void };
type Worker = Window & {
  __WB_MANIFEST: PrecacheEntry[];
  skipWaiting: () => Promise<void>;
  clients: { claim: () => Promise<void> };
};

declare const self: Worker;

const PAGE = "/walk";
const CACHE = "rundgang-walk-page";
const WAITS_S = 3;

precacheAndRoute(self.__WB_MANIFEST);
cleanupOutdatedCaches();

const page = new NetworkFirst({
  cacheName: CACHE,
  networkTimeoutSeconds: WAITS_S,
  plugins: [{ cacheKeyWillBeUsed: async () => PAGE }],
});
registerRoute(new NavigationRoute(page, { allowlist: [/^\/walk(\/|$)/] }));

self.addEventListener("install", (event) => {
  (event as Lasting).waitUntil(caches.open(CACHE).then((cache) => cache.add(PAGE)));
  void self.skipWaiting();
});
self.addEventListener("activate", (event) => (event as Lasting).waitUntil(self.clients.claim()));
