/** The calculators: calculations that stand alone, answered as one types. */
import { Link, NavLink, useParams, useSearchParams } from "react-router";
import type { Calculator } from "../../api/client";
import { useCalculators, useReady, useUnitTable } from "../../api/queries";
import { Pick } from "../../ui/Pick";
import { buttonLook, Empty, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { Calculation } from "./Calculation";

export function CalculatorsView() {
  const { day } = useWindowView();
  const [search, setSearch] = useSearchParams();
  const product = day.products.find((found) => found.id === search.get("product"));
  const ready = useReady(product?.id);
  const calculators = useCalculators();
  const units = useUnitTable();
  const { entry } = useParams();
  if (calculators.isError || units.isError)
    return (
      <div className="m-5">
        <Refused error={calculators.error ?? units.error ?? new Error("The calculators are not there.")} />
      </div>
    );
  if (!calculators.data || !units.data) return <Loading what="the calculators" />;
  const chosen = calculators.data.find((found) => found.id === (entry ?? calculators.data[0]?.id));
  return (
    <>
      <Header
        title="Calculators"
        sub={product ? `one thing calculated with the figures of ${product.name}` : "one thing calculated by itself"}
        actions={
          <>
            {product && (
              <Link to={`/line/${product.line}/${product.id}`} className={buttonLook()}>
                {product.name} on its line
              </Link>
            )}
            <Pick
              label="With the figures of"
              value={product?.id ?? ""}
              onChange={(id) => setSearch(id ? { product: id } : {}, { replace: true })}
              options={[
                { value: "", label: "no product" },
                ...day.products.map(({ id, name, family }) => ({ value: id, label: name, group: family })),
              ]}
            />
          </>
        }
      />
      <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[13rem_1fr]">
        <Entries entries={calculators.data} chosen={chosen} product={product?.id} ready={ready.data} />
        {chosen && (!product || ready.data || ready.isError) ? (
          <Calculation key={`${chosen.id}-${product?.id}`} entry={withFigures(chosen, ready.data?.[chosen.id])} />
        ) : chosen ? (
          <Loading what="the product's figures" />
        ) : (
          <Empty title="No such calculation">Choose one from the list.</Empty>
        )}
      </div>
    </>
  );
}

/** The question begun with a product's own figures where it has them. */
const withFigures = (entry: Calculator, figures: Record<string, number> = {}): Calculator => ({
  ...entry,
  fields: entry.fields.map((field) => {
    const own = figures[field.name];
    return own === undefined ? field : { ...field, first: String(Number(own.toPrecision(6))) };
  }),
});

type EntriesProps = {
  entries: Calculator[];
  chosen: Calculator | undefined;
  product: string | undefined;
  ready: Record<string, Record<string, number>> | undefined;
};

function Entries({ entries, chosen, product, ready }: EntriesProps) {
  return (
    <Panel className="self-start p-2">
      <nav aria-label="Calculations">
        <ul>
          {entries.map((found) => (
            <li key={found.id}>
              <NavLink
                to={`/calculators/${found.id}${product ? `?product=${product}` : ""}`}
                aria-current={found === chosen ? "page" : undefined}
                className="block rounded-lg px-3 py-1.5 hover:bg-crumb aria-[current=page]:bg-crumb"
              >
                <span className="block font-semibold text-sm">{found.name}</span>
                <span className="block text-ink-2 text-xs">
                  {ready?.[found.id] ? "with the product's figures" : found.about}
                </span>
              </NavLink>
            </li>
          ))}
        </ul>
      </nav>
    </Panel>
  );
}
