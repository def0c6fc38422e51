/** What the line is set to, kept in the address: pace, room, counts and times that differ from the plant's own. */
import type { BalanceRequest } from "../../api/queries";
import { useAddress } from "../../ui/useAddress";

export type Held = { product: string; request: BalanceRequest };

const COUNT = "n.";
const DWELL = "t.";

/** Figures of the address under a prefix, by station. */
function figures(search: URLSearchParams, prefix: string): Record<string, number> {
  const found: Record<string, number> = {};
  for (const [name, text] of search) {
    const value = Number(text);
    if (name.startsWith(prefix) && Number.isFinite(value)) found[name.slice(prefix.length)] = value;
  }
  return found;
}

export function requestOf(search: URLSearchParams): BalanceRequest {
  const pace = Number(search.get("pace")) || undefined;
  const room = search.get("room");
  return {
    ...(pace && { pace }),
    setting: {
      count: figures(search, COUNT),
      dwell_min: figures(search, DWELL),
      ...(room !== null && Number.isFinite(Number(room)) && { room_c: Number(room) }),
    },
  };
}

function heldOf(search: URLSearchParams): Held | undefined {
  const text = search.get("beside");
  if (!text) return undefined;
  const held = new URLSearchParams(text);
  const product = held.get("product");
  return product ? { product, request: requestOf(held) } : undefined;
}

/** The setting, and how to change one part of it. */
export function useSetting(product: string) {
  const [search, alter] = useAddress();
  const change = (name: string, value: string | undefined) =>
    alter((parameters) => {
      if (value === undefined) parameters.delete(name);
      else parameters.set(name, value);
    });
  const mine = () => {
    const own = new URLSearchParams(search);
    own.delete("beside");
    own.delete("station");
    return own;
  };
  const request = requestOf(search);
  return {
    request,
    held: heldOf(search),
    station: search.get("station") ?? undefined,
    search,
    isChanged: [...mine().keys()].length > 0,
    setPace: (pace: number | undefined) => change("pace", pace === undefined ? undefined : String(pace)),
    setRoom: (room: number | undefined) => change("room", room === undefined ? undefined : String(room)),
    setCount: (station: string, count: number | undefined) => change(COUNT + station, count?.toString()),
    setDwell: (station: string, minutes: number | undefined) => change(DWELL + station, minutes?.toString()),
    select: (station: string) => change("station", station),
    hold: () => {
      const own = mine();
      own.set("product", product);
      change("beside", own.toString());
    },
    letGo: () => change("beside", undefined),
    clear: () =>
      alter((parameters) => {
        for (const name of [...parameters.keys()]) parameters.delete(name);
      }),
  };
}

export type Setting = ReturnType<typeof useSetting>;
