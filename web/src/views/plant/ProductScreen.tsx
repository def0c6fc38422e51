/** A product: its way along the line, its formula with what a dough weighs, and what a change of it does. */
import { useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { plural } from "../../app/format";
import { Pick } from "../../ui/Pick";
import { Button, Empty, Panel } from "../../ui/parts";
import type { Kind, Thing } from "./draft";
import { Effect } from "./Effect";
import { Formula } from "./Formula";
import { Form } from "./form/Form";
import { Naming } from "./Naming";
import { type Parts, useChosen } from "./PlantView";
import { referencesIn } from "./references";
import { copyOf, routeOf, type Step, stationsOf, withStep } from "./route";
import { StepForm } from "./StationPanel";
import { Walk } from "./Walk";

export function ProductScreen({ parts }: { kind: Kind; parts: Parts }) {
  const { draft, trial, showFor, schemas } = parts;
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const { things: products, chosen: product } = useChosen("products", draft);
  const [copying, setCopying] = useState(false);
  useEffect(() => showFor(product?.id), [showFor, product?.id]);
  if (!product)
    return (
      <Empty title="No such product">
        <p className="mb-3">There are {plural(products.length, "product")}.</p>
        {parts.picks}
      </Empty>
    );
  const lines = draft.library.plant.lines as unknown as Thing[];
  const line = lines.find((one) => one.id === product.line);
  const stations = stationsOf(line);
  const references = referencesIn(draft.library, line?.id);
  const station =
    stations.find((one) => one.id === search.get("station")) ??
    stations.find((one) => one.id === routeOf(product)[0]?.station);
  const put = (next: Record<string, unknown>) => draft.edit([{ kind: "products", id: product.id, data: next }]);
  return (
    <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-2">
      <Panel label="Its way" className="p-4 lg:col-span-2">
        <div className="mb-3 flex flex-wrap items-center gap-3 text-sm">
          {parts.picks}
          <Pick
            label="Product"
            value={product.id}
            onChange={(id) => navigate(`/plant/products/${id}`)}
            options={products.map((one) => ({
              value: one.id,
              label: one.name,
              group: lines.find((found) => found.id === one.line)?.name ?? "",
            }))}
          />
          {line && (
            <Link to={`/plant/lines/${line.id}?as=${product.id}`} className="underline">
              {line.name}
            </Link>
          )}
          <Link to={`/line/${String(product.line)}/${product.id}`} className="underline">
            What the line can carry of it
          </Link>
          <span className="ml-auto flex gap-2">
            <Button onClick={() => setCopying(true)}>Copy this product</Button>
            <Button
              disabled={products.length < 2}
              onClick={() => draft.edit([{ kind: "products", id: product.id, data: null }])}
            >
              Delete
            </Button>
          </span>
        </div>
        <Walk
          stations={stations}
          steps={routeOf(product)}
          balance={trial?.now?.balance ?? trial?.was?.balance ?? undefined}
          chosen={station?.id}
          onChoose={(id) => {
            search.set("station", id);
            setSearch(search, { replace: true });
          }}
        />
      </Panel>
      <div className="grid content-start gap-2">
        <Formula
          product={product}
          schema={schemas.products}
          sheet={trial?.now?.sheet ?? trial?.was?.sheet ?? undefined}
          references={references}
          onFormula={(formula) => put({ ...product, formula })}
        />
        <Panel label="The product" className="p-4">
          <h2 className="mb-3 font-bold text-lg leading-6">{product.name}</h2>
          <Form
            key={product.id}
            schema={schemas.products}
            root={schemas.products}
            value={product}
            references={references}
            without={["formula", "route"]}
            onChange={put}
          />
        </Panel>
      </div>
      <div className="grid content-start gap-2">
        <Effect parts={parts} product={product} />
        {line && station && (
          <Panel label="Its step" className="p-4">
            <StepForm
              key={`${product.id} ${station.id}`}
              {...{ parts, station, product, references }}
              onStep={(step) => draft.edit([withStep(line, product, station.id, step as Step | undefined)])}
            />
            <p className="mt-3 text-sm">
              <Link to={`/plant/lines/${line.id}?as=${product.id}&station=${station.id}`} className="underline">
                The station itself
              </Link>
            </p>
          </Panel>
        )}
      </div>
      {copying && (
        <Naming
          title={`Copy ${product.name}`}
          begun={`${product.name} 2`}
          button="Copy the product"
          onName={(name) => {
            const copy = { ...copyOf(product, name, products), same_as: null };
            draft.edit([{ kind: "products", id: copy.id, data: copy }]);
            navigate(`/plant/products/${copy.id}`);
          }}
          onClose={() => setCopying(false)}
        />
      )}
    </div>
  );
}
