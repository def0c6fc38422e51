/** A plant built after the pattern of a family: a walk past its stations, filled in, and what it can carry at once. */
import { useState } from "react";
import type { LineBalance, Schemas } from "../../api/client";
import { useBuild, usePatterns, useTriedDraft } from "../../api/queries";
import { duration, whole } from "../../app/format";
import { Button, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { type Draft, draftOf, patternProduct, without } from "./draft";
import { PlantFields } from "./PlantFields";
import { Products } from "./Products";
import { StationCard } from "./StationCard";

export function BuildView({ onBack }: { onBack: () => void }) {
  const patterns = usePatterns();
  if (patterns.isPending) return <Loading what="the families" />;
  if (patterns.isError) return <Refused error={patterns.error} again={() => patterns.refetch()} />;
  return <Builder patterns={patterns.data} onBack={onBack} />;
}

type Pattern = Schemas["Pattern"];

function Builder({ patterns, onBack }: { patterns: Pattern[]; onBack: () => void }) {
  const [draft, setDraft] = useState<Draft>(() => draftOf(patterns[0]));
  const [shown, setShown] = useState(0);
  const pattern = patterns.find((found) => found.id === draft.pattern) ?? patterns[0];
  const build = useBuild();
  const tried = useTriedDraft(draft);
  if (!pattern) return null;
  const product = draft.products[shown] ?? draft.products[0];
  const found = tried.isError ? undefined : tried.data?.balances[shown];
  const edit = (parts: Partial<Draft>) => setDraft({ ...draft, ...parts });
  const named = [draft.plant, draft.town, draft.line, ...draft.products.map(({ name }) => name)];
  const complete = named.every((name) => name.trim() !== "");
  return (
    <div className="flex min-h-dvh flex-col">
      <Header
        title="Build a plant"
        sub="usual figures are filled in and marked; put in what is yours, the rest can wait"
        figures={<Carries balance={found} pattern={pattern} />}
        actions={
          <>
            <Button onClick={onBack}>Back</Button>
            <Button
              weight="strong"
              disabled={!complete || tried.isError || build.isPending}
              onClick={() => build.mutate(draft, { onSuccess: () => location.assign("/calendar") })}
            >
              {build.isPending ? "Building …" : "Build this plant"}
            </Button>
          </>
        }
      />
      <div className="mx-2 mb-2 grid gap-2 empty:hidden">
        {build.isError && <Refused error={build.error} />}
        {tried.isError && <Refused error={tried.error} />}
        {!complete && !tried.isError && (
          <Notice title="Still without a name: the plant, its town, the line, or a product" />
        )}
      </div>
      <main className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[21rem_minmax(0,1fr)]">
        <div className="grid content-start gap-2">
          <Panel label="The plant" className="p-4">
            <PlantFields
              draft={draft}
              patterns={patterns}
              edit={edit}
              onPattern={(chosen) => {
                setDraft({ ...draft, ...without(draft), pattern: chosen.id, products: [patternProduct(chosen)] });
                setShown(0);
              }}
            />
          </Panel>
          <Panel label="Products" className="p-4">
            <Products
              draft={draft}
              pattern={pattern}
              shown={shown}
              onShow={setShown}
              onChange={(products) => {
                edit({ products });
                setShown(Math.min(shown, products.length - 1));
              }}
            />
          </Panel>
        </div>
        <Panel label="The walk" className="p-4">
          <h2 className="font-bold text-base">The walk, for {product?.name.trim() || "the product"}</h2>
          <p className="pb-3 text-ink-2 text-xs">
            What a station has holds for every product; what stands under the dotted rule is this product&apos;s own.
          </p>
          <ol className="grid gap-x-3 gap-y-5 sm:grid-cols-2 xl:grid-cols-3 2xl:grid-cols-4">
            {pattern.walk.map((station) => (
              <StationCard
                key={station.station}
                asked={station}
                stage={found?.stages.find((stage) => stage.station === station.station)}
                narrowest={found?.bottleneck === station.station}
                ofStation={draft.figures[station.station] ?? {}}
                ofProduct={product?.figures[station.station] ?? {}}
                onStation={(figures) => edit({ figures: { ...draft.figures, [station.station]: figures } })}
                onProduct={(figures) =>
                  edit({
                    products: draft.products.map((one, place) =>
                      place === shown ? { ...one, figures: { ...one.figures, [station.station]: figures } } : one,
                    ),
                  })
                }
              />
            ))}
          </ol>
        </Panel>
      </main>
    </div>
  );
}

function Carries({ balance, pattern }: { balance: LineBalance | undefined; pattern: Pattern }) {
  const stage = balance?.stages.find((one) => one.station === balance.bottleneck);
  return (
    <>
      <Figure value={balance ? whole(balance.most_per_h) : "…"} label={`${pattern.piece}s an hour at most`} />
      <Figure value={stage?.name ?? "…"} label="is the bottleneck" wrong={stage !== undefined} />
      <Figure value={balance ? duration(balance.flour_to_pack_min) : "…"} label="flour to first pack" />
      <Figure value={balance ? `${balance.batch_interval_min.toFixed(1)} min` : "…"} label="from dough to dough" />
    </>
  );
}
