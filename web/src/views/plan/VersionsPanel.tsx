/** All versions of the plan, and what differs between another one and the one shown. */
import { useState } from "react";
import { Link } from "react-router";
import type { VersionView } from "../../api/client";
import { useComparison, useMoney, useVersions } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { Heading, Loading, Older, Refused, Row } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { signedPoints } from "./points";
import { movedBy } from "./runs";
import { useMadeAt } from "./VersionStrip";

export function VersionsPanel({ version, line }: { version: VersionView; line: string }) {
  const madeAt = useMadeAt();
  const versions = useVersions();
  const [other, setOther] = useState<number>();
  if (versions.error) return <Refused error={versions.error} />;
  if (!versions.data) return <Loading what="the versions" />;
  return (
    <>
      <h2 className="font-bold text-lg leading-5">Versions</h2>
      <Money version={version.note.number} />
      {other !== undefined && other !== version.note.number && (
        <Differences before={other} after={version.note.number} onClose={() => setOther(undefined)} />
      )}
      <ol className="mt-2">
        {versions.data.map((note) => (
          <li
            key={note.number}
            className={`border-trail border-l-2 border-dotted py-1.5 pl-3 text-sm ${
              note.number === version.note.number ? "bg-crumb" : ""
            }`}
          >
            <div className="flex items-baseline justify-between gap-2">
              <Link to={`/plan/${note.number}?line=${line}`} className="font-semibold hover:underline">
                Version {note.number}
              </Link>
              <span className="text-xs">{whole(note.cost)} points</span>
            </div>
            <div className="text-ink-2 text-xs">
              {note.note}, {note.author}, {madeAt(note.created_at)}
              {note.parent != null && `, from ${note.parent}`}
            </div>
            <div className="flex flex-wrap gap-x-3 text-xs">
              {version.published?.version === note.number && (
                <span className="font-semibold text-steam">published</span>
              )}
              {note.score.packs_short > 0 && (
                <span className="font-semibold text-ember">{whole(note.score.packs_short)} packs short</span>
              )}
              {note.number !== version.note.number && (
                <button type="button" className="underline" onClick={() => setOther(note.number)}>
                  Compare
                </button>
              )}
            </div>
          </li>
        ))}
      </ol>
      <Older of={versions} />
    </>
  );
}

/** What the version comes to, where the plant has entered prices. */
function Money({ version }: { version: number }) {
  const found = useMoney(version).data;
  if (!found?.money) return null;
  const { unpriced } = found.money;
  return (
    <section aria-label="Money" className="mt-1">
      <Heading>Version {version} comes to</Heading>
      <dl>
        {found.figures.map((figure) => (
          <Row key={figure.name} name={figure.name}>
            {whole(figure.value)} {figure.unit}
          </Row>
        ))}
      </dl>
      {unpriced.length > 0 && (
        <details className="text-ink-2 text-xs">
          <summary>{plural(unpriced.length, "thing")} without a price, left out of the sums</summary>
          {unpriced.join(", ")}
        </details>
      )}
    </section>
  );
}

function Differences({ before, after, onClose }: { before: number; after: number; onClose: () => void }) {
  const compared = useComparison(before, after);
  const { day, names } = useWindowView();
  if (compared.isError) return <Refused error={compared.error} />;
  if (!compared.data) return <p className="text-ink-2 text-sm">Comparing …</p>;
  const { lines } = compared.data;
  const points = compared.data.after.cost - compared.data.before.cost;
  const short = compared.data.after.score.packs_short - compared.data.before.score.packs_short;
  return (
    <section className="mt-2 rounded-lg border border-trail/60 bg-ground p-3 text-sm" aria-label="Comparison">
      <div className="flex items-baseline justify-between">
        <h3 className="font-semibold">
          From {before} to {after}
        </h3>
        <button type="button" className="text-ink-2 text-xs underline" onClick={onClose}>
          Close
        </button>
      </div>
      <p className="text-xs">
        {signedPoints(points)}
        {short !== 0 && `, ${plural(Math.abs(short), "pack")} ${short < 0 ? "fewer" : "more"} short`}
      </p>
      {lines.length === 0 && <p className="text-ink-2 text-xs">No run differs.</p>}
      {lines.map((line) => (
        <div key={line.line}>
          <Heading>{day.lines.find((found) => found.id === line.line)?.name ?? line.line}</Heading>
          <ul className="text-xs">
            {line.moved.map((one) => (
              <li key={`${one.run}-${one.was_run}`} className="flex justify-between gap-2">
                <span>
                  {one.was_run ?? one.run} {names.get(one.product)}
                </span>
                <span className="text-ink-2">{movedBy(one.was_min, one.start_min)}</span>
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
