/** The views, each loaded when it is gone to: that of the address at once, the others when nothing else is to be done. */
import { type ComponentType, useEffect, useState } from "react";
import { Loading } from "../ui/parts";

type Load = () => Promise<ComponentType>;

/** A view by its code. Not by Suspense, which keeps what has arrived from sight for a while (its throttle of 300 ms). */
function view(from: Load) {
  let loaded: ComponentType | undefined;
  const load: Load = async () => {
    loaded ??= await from();
    return loaded;
  };
  function View() {
    const [Shown, show] = useState(() => loaded);
    const [failed, fail] = useState<Error>();
    useEffect(() => {
      if (!Shown) load().then((found) => show(() => found), fail);
    }, [Shown]);
    if (failed) throw failed;
    return Shown ? <Shown /> : <Loading what="the page" />;
  }
  return Object.assign(View, { load });
}

/** By the first part of their addresses. */
export const views = {
  orders: view(async () => (await import("../views/orders/OrdersView")).OrdersView),
  plan: view(async () => (await import("../views/plan/PlanScreen")).PlanScreen),
  now: view(async () => (await import("../views/now/NowView")).NowView),
  instruments: view(async () => (await import("../views/instruments/InstrumentsView")).InstrumentsView),
  stop: view(async () => (await import("../views/stop/StopView")).StopView),
  stops: view(async () => (await import("../views/stop/StopsView")).StopsView),
  checks: view(async () => (await import("../views/checks/ChecksView")).ChecksView),
  walk: view(async () => (await import("../views/walk/WalkView")).WalkView),
  sheet: view(async () => (await import("../views/walk/SheetView")).SheetView),
  odds: view(async () => (await import("../views/odds/OddsView")).OddsView),
  quality: view(async () => (await import("../views/quality/QualityView")).QualityView),
  mockRecall: view(async () => (await import("../views/recall/MockRecallView")).MockRecallView),
  upkeep: view(async () => (await import("../views/upkeep/UpkeepView")).UpkeepView),
  learning: view(async () => (await import("../views/learning/LearningView")).LearningView),
  account: view(async () => (await import("../views/account/AccountView")).AccountView),
  records: view(async () => (await import("../views/records/RecordsView")).RecordsView),
  lots: view(async () => (await import("../views/records/LotView")).LotView),
  weigh: view(async () => (await import("../views/weigh/WeighView")).WeighView),
  dispatch: view(async () => (await import("../views/dispatch/DispatchView")).DispatchView),
  board: view(async () => (await import("../views/now/BoardView")).BoardView),
  dough: view(async () => (await import("../views/dough/DoughView")).DoughView),
  line: view(async () => (await import("../views/line/LineView")).LineView),
  materials: view(async () => (await import("../views/materials/MaterialsView")).MaterialsView),
  calendar: view(async () => (await import("../views/calendar/CalendarView")).CalendarView),
  plant: view(async () => (await import("../views/plant/PlantView")).PlantView),
  calculators: view(async () => (await import("../views/calculators/CalculatorsView")).CalculatorsView),
  print: view(async () => (await import("../views/print/PrintView")).PrintView),
};

export const FirstPage = view(async () => (await import("../views/first/FirstPage")).FirstPage);

const LATER_MS = 2_000;

/** When the browser has nothing else to do; where it does not say when that is, next. */
const idle = () =>
  new Promise<unknown>((done) => ("requestIdleCallback" in window ? requestIdleCallback(done) : setTimeout(done)));

/** One after the other, so that no task of it is long; one that cannot be had now says so when it is gone to. */
async function loadRest() {
  for (const one of [...Object.values(views), FirstPage]) {
    await idle();
    await one.load().catch(() => undefined);
  }
}

/** Load what the address names, before anything is asked of the server; and the rest later. */
export function loadViews(path: string) {
  const named = path.split("/").find((part): part is keyof typeof views => part in views);
  void views[named ?? "plan"].load();
  setTimeout(loadRest, LATER_MS);
}
