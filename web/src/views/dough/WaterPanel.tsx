/** How the water was reckoned, and what to take care of. */
import type { Card } from "../../api/client";
import { oneDecimal } from "../../app/format";
import { Heading, Panel, Row } from "../../ui/parts";
import { useDayView } from "../day";

export function WaterPanel({ card }: { card: Card }) {
  const { day } = useDayView();
  const [rule, icing] = card.water.equations;
  return (
    <Panel label="Water for this batch" className="p-4">
      <h2 className="font-bold text-lg leading-6">Water for this batch</h2>
      <p className="text-ink-2 text-xs">by the rule of three temperatures, on today's figures</p>
      <Heading>Water temperature</Heading>
      <p className="text-sm">n × dough − flour − room − friction</p>
      <p className="font-semibold text-sm">{rule}</p>
      {icing && (
        <>
          <Heading>Ice, because the tap is {oneDecimal(day.conditions.tap_c)} °C</Heading>
          <p className="text-sm">water × (tap − wanted) ÷ (tap + 80)</p>
          <p className="font-semibold text-sm">{icing}</p>
        </>
      )}
      <Heading>Where the figures come from</Heading>
      <dl>
        <Row name="Room, flour, tap">measured for the shift</Row>
        <Row name="Friction">the product's, entered</Row>
        <Row name="80">ice melting ÷ water, K</Row>
      </dl>
      <Heading>Take care</Heading>
      <ul className="grid gap-2">
        {card.cautions.map((caution) => (
          <li key={caution.about} className="border-ember border-l-4 pl-3 text-xs leading-4">
            <strong className="block text-sm">{caution.about}</strong>
            {caution.text}
          </li>
        ))}
      </ul>
    </Panel>
  );
}
