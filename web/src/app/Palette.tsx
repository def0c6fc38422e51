/** Go anywhere by typing: screens, runs of the newest plan, products on their line. */
import { Command } from "cmdk";
import { useNavigate } from "react-router";
import type { PlanningWindow } from "../api/client";
import { useCalculators, useNewestPlan } from "../api/queries";
import { Dialog } from "../ui/Dialog";

type Props = { day: PlanningWindow; open: boolean; onOpenChange: (open: boolean) => void };

export function Palette({ day, open, onOpenChange }: Props) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Go to">
      <Places day={day} onGone={() => onOpenChange(false)} />
    </Dialog>
  );
}

function Places({ day, onGone }: { day: PlanningWindow; onGone: () => void }) {
  const navigate = useNavigate();
  const plan = useNewestPlan().data;
  const calculators = useCalculators().data;
  const names = new Map(day.products.map((product) => [product.id, product.name]));
  const places: [string, string][] = [
    ["Orders", "/orders"],
    ["Plan", "/plan"],
    ["Dough room", "/dough"],
    ["Materials", "/materials"],
    ["Calendar of the lorries", "/calendar"],
    ["Now", "/now"],
    ["Board", "/board"],
    ["Walk", "/walk"],
    ["Quality, control charts", "/quality"],
    ["Records, lots", "/records"],
    ["Account of a shift", "/account"],
    ["Learning, what the record teaches", "/learning"],
    ["Tools and cleaning", "/upkeep"],
    ["Mock recall", "/mock-recall"],
    ["Dispatch", "/dispatch"],
    ["Checks", "/checks"],
    ["Round sheet", "/sheet"],
    ["Stops", "/stops"],
    ["Instruments", "/instruments"],
    ["Capacity", "/line"],
    ["Odds, how sure the plan is", "/odds"],
    ["Plant", "/plant"],
    ["Calculators", "/calculators"],
    ...day.lines.map((line): [string, string] => [`Plan of the ${line.name}`, `/plan?line=${line.id}`]),
    ["Print the day", "/print"],
    ...(calculators ?? []).map((entry): [string, string] => [`Calculate ${entry.name}`, `/calculators/${entry.id}`]),
    ...(plan?.plan.runs ?? []).flatMap((run): [string, string][] => [
      [`Run ${run.id} ${names.get(run.product)}`, `/plan?line=${plan?.plan.line}&run=${run.id}`],
      [`Batch cards of ${run.id} ${names.get(run.product)}`, `/dough/${plan?.number}/${run.id}/1`],
    ]),
    ...day.products.map((product): [string, string] => [
      `Balance ${product.name}`,
      `/line/${product.line}/${product.id}`,
    ]),
    ...day.products.map((product): [string, string] => [`Change ${product.name}`, `/plant/products/${product.id}`]),
  ];
  return (
    <Command label="Go to">
      <Command.Input
        autoFocus
        placeholder="A run, a product, a screen"
        className="w-full rounded-lg border border-trail bg-ground px-3 py-2"
      />
      <Command.List className="mt-2">
        <Command.Empty className="p-3 text-ink-2 text-sm">Nothing of that name.</Command.Empty>
        {places.map(([name, to]) => (
          <Command.Item
            key={to}
            value={name}
            onSelect={() => {
              navigate(to);
              onGone();
            }}
            className="cursor-pointer rounded-md px-3 py-1.5 text-sm data-[selected=true]:bg-crumb"
          >
            {name}
          </Command.Item>
        ))}
      </Command.List>
    </Command>
  );
}
