/** Whether it balances: packs to the pack, kilograms with what the oven took. */
import type { Schemas } from "../../api/client";
import { whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Panel, Row } from "../../ui/parts";
import { amountOf } from "./words";

type View = Schemas["LotView"];

const PARTS = [
  ["sent", "bg-steam", "sent"],
  ["in_stock", "bg-crust", "in stock"],
  ["held", "bg-ember", "held"],
  ["scrap", "bg-muted", "scrap"],
] as const;

export function Balance({ view }: { view: View }) {
  const units = useUnits();
  const { balance, mass } = view;
  return (
    <Panel label="Balance" className="p-4">
      <h2 className="mb-1 font-bold">Balance</h2>
      {!balance && <p className="text-ink-2 text-sm">Nothing of it has been packed yet.</p>}
      {balance && (
        <>
          <p className="text-sm">
            {whole(balance.made)} packs made = {whole(balance.sent)} sent + {whole(balance.in_stock)} in stock +{" "}
            {whole(balance.held)} held + {whole(balance.scrap)} scrap
          </p>
          <div aria-hidden="true" className="mt-2 flex h-4 overflow-hidden rounded bg-rule">
            {PARTS.map(([part, tone]) => (
              <div
                key={part}
                className={tone}
                style={{ width: `${(100 * balance[part]) / Math.max(1, balance.made)}%` }}
              />
            ))}
          </div>
          <p className="mt-1 flex flex-wrap gap-x-4 text-xs">
            {PARTS.map(([part, tone, name]) => (
              <span key={part} className="inline-flex items-center gap-1">
                <span aria-hidden="true" className={`inline-block h-2.5 w-2.5 rounded-sm ${tone}`} />
                {name} {whole(balance[part])}
              </span>
            ))}
          </p>
        </>
      )}
      {mass && (
        <dl className="mt-3">
          <Row name="Dough divided for them">{amountOf(mass.dough, "kg", units)}</Row>
          <Row name="Put on or into the pieces">{amountOf(mass.put_on, "kg", units)}</Row>
          <Row name="In the packs, by their product">{amountOf(mass.packs, "kg", units)}</Row>
          <Row name="Lost in baking or frying">{amountOf(mass.bake_loss, "kg", units)}</Row>
          <Row name="Trimmed, pulled, or left in bowls">{amountOf(mass.other_loss, "kg", units)}</Row>
        </dl>
      )}
    </Panel>
  );
}
