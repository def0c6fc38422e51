/** The views, each loaded when it is gone to: that of the address at once, the others when nothing else is to be done. */
import { type ComponentType, useEffect, useState } from "react";
import { Loading } from "../ui/parts";

type Load = () => Promise<ComponentType>;

const all: Load[] = [];

/** A view by its code. Not by Suspense, which keeps what has arrived from sight for a while (its throttle of 300 ms). */
function view(load: Load): ComponentType {
  let loaded: ComponentType | undefined;
  const once: Load = async () => {
    loaded ??= await load();
    return loaded;
  };
  all.push(once);
  return function View() {
    const [Shown, show] = useState(() => loaded);
    const [failed, fail] = useState<Error>();
    useEffect(() => {
      if (!Shown) once().then((found) => show(() => found), fail);
    }, [Shown]);
    if (failed) throw failed;
    return Shown ? <Shown /> : <Loading what="the page" />;
  };
}

const load = {
  orders: async () => (await import("../views/orders/OrdersView")).OrdersView,
  plan: async () => (await import("../views/plan/PlanScreen")).PlanScreen,
  dough: async () => (await import("../views/dough/DoughView")).DoughView,
  line: async () => (await import("../views/line/LineView")).LineView,
  materials: async () => (await import("../views/materials/MaterialsView")).MaterialsView,
  calendar: async () => (await import("../views/calendar/CalendarView")).CalendarView,
  plant: async () => (await import("../views/plant/PlantView")).PlantView,
  calculators: async () => (await import("../views/calculators/CalculatorsView")).CalculatorsView,
  print: async () => (await import("../views/print/PrintView")).PrintView,
} satisfies Record<string, Load>;

export const OrdersView = view(load.orders);
export const PlanScreen = view(load.plan);
export const DoughView = view(load.dough);
export const LineView = view(load.line);
export const MaterialsView = view(load.materials);
export const CalendarView = view(load.calendar);
export const PlantView = view(load.plant);
export const CalculatorsView = view(load.calculators);
export const PrintView = view(load.print);
export const FirstPage = view(async () => (await import("../views/first/FirstPage")).FirstPage);

const LATER_MS = 2_000;

/** Load what the address names, before anything is asked of the server; and the rest later. */
export function loadViews(path: string) {
  const named = path.split("/").find((part): part is keyof typeof load => part in load);
  const first = all[Object.keys(load).indexOf(named ?? "plan")];
  void first?.();
  setTimeout(() => {
    for (const one of all) void one();
  }, LATER_MS);
}
