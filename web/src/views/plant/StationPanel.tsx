/** A station with its own figures, and below the dotted rule what a product is asked there. */
import type { ReactNode } from "react";
import { useStationKinds } from "../../api/queries";
import { Button, Panel } from "../../ui/parts";
import type { Thing } from "./draft";
import { Form } from "./form/Form";
import { type Data, ofKind, type References } from "./form/schema";
import type { Parts } from "./PlantView";
import { routeOf } from "./route";

type Props = {
  parts: Parts;
  station: Thing;
  product: Thing | undefined;
  references: References;
  onStation: (station: Data) => void;
  onStep: (step: Data | undefined) => void;
  actions: ReactNode;
};

export function StationPanel({ parts, station, product, references, onStation, onStep, actions }: Props) {
  const kind = String(station.kind);
  const schema = ofKind(parts.schemas.lines, "stations", kind);
  const word = useStationKinds().data?.[kind];
  return (
    <Panel label={station.name} className="self-start p-4">
      <div className="mb-3 flex flex-wrap items-start gap-2">
        <div className="mr-auto">
          <h2 className="font-bold text-lg leading-6">{station.name}</h2>
          <p className="text-ink-2 text-sm">{word && `${word.name}: ${word.help}`}</p>
        </div>
        {actions}
      </div>
      <Form schema={schema} root={schema} value={station} references={references} onChange={onStation} />
      {product && (
        <div className="mt-4 border-trail border-t-2 border-dotted pt-3">
          <StepForm {...{ parts, station, product, references, onStep }} />
        </div>
      )}
    </Panel>
  );
}

type StepProps = Pick<Props, "parts" | "station" | "references" | "onStep"> & { product: Thing };

/** What a product is asked at a station; or the way to send it there. */
export function StepForm({ parts, station, product, references, onStep }: StepProps) {
  const kind = String(station.kind);
  const schema = ofKind(parts.schemas.products, "route", kind);
  const step = routeOf(product).find((one) => one.station === station.id);
  return (
    <section aria-label={`${product.name} here`}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <h3 className="font-bold text-base">
          {product.name} at {station.name}
        </h3>
        {step ? (
          <Button onClick={() => onStep(undefined)}>Not through here</Button>
        ) : (
          <Button onClick={() => onStep({ ...parts.starters[kind]?.step, station: station.id })}>
            Send it through here
          </Button>
        )}
      </div>
      {step ? (
        <Form
          schema={schema}
          root={schema}
          value={step}
          references={references}
          without={["station"]}
          onChange={onStep}
        />
      ) : (
        <p className="text-ink-2 text-sm">It does not pass this station.</p>
      )}
    </section>
  );
}
