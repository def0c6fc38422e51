/** The products of the line: what each weighs, how it is packed, how fast it shall run. */
import { Button } from "../../ui/parts";
import { type Pattern, type ProductDraft, patternProduct } from "./draft";
import { Entry } from "./Entry";

type Props = {
  draft: { products: ProductDraft[] };
  pattern: Pattern;
  shown: number;
  onShow: (place: number) => void;
  onChange: (products: ProductDraft[]) => void;
};

export function Products({ draft, pattern, shown, onShow, onChange }: Props) {
  const { products } = draft;
  const usual = patternProduct(pattern);
  const set = (place: number, parts: Partial<ProductDraft>) =>
    onChange(products.map((product, at) => (at === place ? { ...product, ...parts } : product)));
  return (
    <>
      <h2 className="font-bold text-base">Products</h2>
      {products.map((product, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a product has no other name until it is built
        <section key={place} aria-label={`Product ${place + 1}`} className="border-rule border-b py-2">
          <div className="flex items-center gap-2">
            <input
              type="radio"
              name="shown"
              aria-label={`Show product ${place + 1} on the walk`}
              checked={place === shown}
              onChange={() => onShow(place)}
            />
            <input
              aria-label={`Name of product ${place + 1}`}
              placeholder="Name of the product"
              maxLength={80}
              className="w-full rounded border border-trail/60 bg-ground px-2 py-1 font-semibold text-sm"
              value={product.name}
              onChange={(event) => set(place, { name: event.target.value })}
            />
            {products.length > 1 && (
              <Button
                className="min-h-7 px-2 py-0.5 text-xs"
                aria-label={`Delete product ${place + 1}`}
                onClick={() => onChange(products.filter((_, at) => at !== place))}
              >
                ×
              </Button>
            )}
          </div>
          <Entry
            label="pieces in a pack"
            usual={usual.pieces_per_pack}
            counted
            value={product.pieces_per_pack === usual.pieces_per_pack ? undefined : product.pieces_per_pack}
            onChange={(value) => set(place, { pieces_per_pack: Math.max(1, value ?? usual.pieces_per_pack) })}
          />
          <Entry
            label="a piece weighs, baked"
            unit="g"
            quantity="piece mass"
            usual={usual.baked_g}
            value={product.baked_g === usual.baked_g ? undefined : product.baked_g}
            onChange={(value) => set(place, { baked_g: value ?? usual.baked_g })}
          />
          <Entry
            label="pace that is wanted"
            unit="/h"
            usual={usual.target_per_hour}
            value={product.target_per_hour === usual.target_per_hour ? undefined : product.target_per_hour}
            onChange={(value) => set(place, { target_per_hour: value ?? usual.target_per_hour })}
          />
          <Entry
            label="fresh for"
            unit="h"
            usual={usual.fresh_for_h ?? null}
            optional
            value={product.fresh_for_h === usual.fresh_for_h ? undefined : product.fresh_for_h}
            onChange={(value) => set(place, { fresh_for_h: value === undefined ? usual.fresh_for_h : value })}
          />
        </section>
      ))}
      <Button
        className="mt-2"
        onClick={() => {
          const last = products.at(-1);
          onChange([...products, { ...usual, figures: last?.figures ?? {} }]);
          onShow(products.length);
        }}
      >
        Add a product
      </Button>
    </>
  );
}
