/** Learning: what the record says of doughs, pieces and machines, beside the library; taken into it, or left. */
import { useState } from "react";
import { useLeaveLessons, useLessons, useLibrary, useTakeLessons, useTriedLessons } from "../../api/queries";
import { plural } from "../../app/format";
import { type Units, useUnits } from "../../app/units";
import { Button, Empty, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { LineOfPage } from "../LineOfPage";
import { useLine } from "../planningWindow";
import { InThePlan } from "../plant/Effect";
import { KINDS, type Kind, type Lesson, shown, unitOf } from "./kinds";
import { Strip } from "./Strip";

export function LearningView() {
  const line = useLine()?.id ?? "";
  const found = useLessons(line);
  const [chosen, choose] = useState<readonly string[]>([]);
  const lessons = found.data?.lessons ?? [];
  const taken = lessons.filter((lesson) => chosen.includes(lesson.key));
  const telling = lessons.filter((lesson) => lesson.tells && !lesson.left);
  return (
    <>
      <Header
        title="Learning"
        sub={`what the last ${found.data?.days ?? "few"} days say of doughs, pieces and machines, beside what the library says`}
        figures={
          found.data && (
            <>
              <Figure value={lessons.length} label={lessons.length === 1 ? "figure learnt" : "figures learnt"} />
              <Figure value={telling.length} label="say otherwise than the library" wrong={telling.length > 0} />
            </>
          )
        }
        actions={<LineOfPage line={line} onChange={() => choose([])} />}
      />
      {found.isError && (
        <div className="m-5">
          <Refused error={found.error} again={() => found.refetch()} />
        </div>
      )}
      {found.isPending && <Loading what="what the record says" />}
      {found.data && lessons.length === 0 && (
        <Empty title="Nothing can be learnt of this line yet">
          It takes at least four of a kind: doughs that were probed, cores and weights that were measured on the walk,
          runs and stops that counters have seen.
        </Empty>
      )}
      {found.data && lessons.length > 0 && (
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 xl:grid-cols-[minmax(0,2fr)_minmax(20rem,1fr)]">
          <div className="grid content-start gap-2">
            {(Object.keys(KINDS) as Kind[]).map((kind) => (
              <OfKind
                key={kind}
                kind={kind}
                lessons={lessons.filter((one) => one.kind === kind)}
                {...{ chosen, choose }}
              />
            ))}
          </div>
          <Taking line={line} library={found.data.library} taken={taken} done={() => choose([])} />
        </div>
      )}
    </>
  );
}

type OfKindProps = {
  kind: Kind;
  lessons: readonly Lesson[];
  chosen: readonly string[];
  choose: (keys: readonly string[]) => void;
};

function OfKind({ kind, lessons, chosen, choose }: OfKindProps) {
  const units = useUnits();
  if (lessons.length === 0) return null;
  return (
    <Panel label={KINDS[kind].name} className="overflow-x-auto p-4">
      <h2 className="font-bold">{KINDS[kind].name}</h2>
      <p className="mb-1 text-muted text-xs">from {KINDS[kind].from}</p>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-muted text-xs">
            <th className="w-8" />
            <th className="py-1 font-semibold">Of</th>
            <th className="py-1 text-right font-semibold">Library</th>
            <th className="py-1 text-right font-semibold">Learnt</th>
            <th className="py-1 pl-4 font-semibold">Observed</th>
          </tr>
        </thead>
        <tbody>
          {lessons.map((lesson) => (
            <LessonRow
              key={lesson.key}
              lesson={lesson}
              units={units}
              chosen={chosen.includes(lesson.key)}
              onChoose={(on) => choose(on ? [...chosen, lesson.key] : chosen.filter((key) => key !== lesson.key))}
            />
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

type RowProps = { lesson: Lesson; units: Units; chosen: boolean; onChoose: (on: boolean) => void };

function LessonRow({ lesson, units, chosen, onChoose }: RowProps) {
  const { kind, estimate, said, left } = lesson;
  const telling = lesson.tells && !left;
  return (
    <tr className="border-rule border-t align-middle">
      <td>
        {lesson.tells && !lesson.hint && (
          <input
            type="checkbox"
            className="size-4 accent-ember"
            aria-label={`${KINDS[kind].name}: ${lesson.name}`}
            checked={chosen}
            onChange={(event) => onChoose(event.target.checked)}
          />
        )}
      </td>
      <td className={`py-1.5 pr-3 ${telling ? "font-semibold" : "text-ink-2"}`}>
        {lesson.name}
        {lesson.tells && lesson.hint && <span className="block text-xs">{lesson.hint}</span>}
        {left && (
          <span className="block text-xs">
            left by {left.author}: {left.reason}
          </span>
        )}
      </td>
      <td className="whitespace-nowrap text-right">{said == null ? "says nothing" : shown(kind, said, units)}</td>
      <td className={`whitespace-nowrap pl-4 text-right ${telling ? "font-semibold text-ember" : ""}`}>
        {shown(kind, estimate.value, units)} {unitOf(kind, units)}
        <span className="block font-normal text-muted text-xs">
          {shown(kind, estimate.low, units)} to {shown(kind, estimate.high, units)}
        </span>
      </td>
      <td className="pl-4">
        <Strip lesson={lesson} />
        <span className="text-muted text-xs">
          {counted(kind, estimate.observed)}
          {estimate.held_out > 0 && `, ${estimate.held_out} held out`}
        </span>
      </td>
    </tr>
  );
}

function counted(kind: Kind, number: number): string {
  const word: Record<Kind, string> = {
    friction: "dough",
    cooling: "core",
    yield: "piece",
    "bake loss": "weighing",
    pace: "quarter of an hour",
    "tool change": "change",
    "belt set": "change",
    stops: "stop",
    stands: "stop",
  };
  return kind === "pace" ? `${number} quarters of an hour` : plural(number, word[kind]);
}

type TakingProps = { line: string; library: number; taken: readonly Lesson[]; done: () => void };

function Taking({ line, library, taken, done }: TakingProps) {
  const lessons = taken.map(({ kind, product, station, mixer, estimate }) => ({
    kind,
    product,
    station,
    mixer,
    value: estimate.value,
    spread: estimate.spread,
  }));
  const known = useLibrary().data?.library;
  const tried = useTriedLessons(line, lessons);
  const take = useTakeLessons();
  const leave = useLeaveLessons();
  const [reason, setReason] = useState("");
  const faults = tried.data?.faults ?? [];
  return (
    <Panel label="What taking them does" className="self-start p-4 xl:sticky xl:top-2">
      <h2 className="mb-1 font-bold text-lg leading-6">
        {taken.length === 0 ? "Nothing is taken by itself" : `${plural(taken.length, "figure")} chosen`}
      </h2>
      {taken.length === 0 ? (
        <p className="text-ink-2 text-sm">
          Choose figures to see what they would do to the plan. The bar is where the figure lies, 95 times of 100; the
          dashed line is what the library says. Only what lies outside of its bar can be chosen.
        </p>
      ) : (
        <>
          {tried.isError && <Refused error={tried.error} again={() => tried.refetch()} />}
          {faults.length > 0 && (
            <Notice tone="wrong" title="They cannot be taken like this:">
              {faults.map((fault) => fault.says).join("; ")}
            </Notice>
          )}
          {tried.data && known && faults.length === 0 && <InThePlan trial={tried.data} library={known} />}
          {(tried.data?.changes?.length ?? 0) > 0 && (
            <ul className="mt-3 list-disc pl-5 text-ink-2 text-sm">
              {tried.data?.changes?.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          )}
          <div className="mt-4 flex flex-wrap items-end gap-2">
            <Button
              weight="strong"
              disabled={take.isPending || !tried.data || faults.length > 0}
              onClick={() => take.mutate({ line, based_on: library, taken: lessons }, { onSuccess: done })}
            >
              Take into the library
            </Button>
            <label className="grow text-ink-2 text-xs">
              or leave, because
              <input
                value={reason}
                maxLength={80}
                onChange={(event) => setReason(event.target.value)}
                className="mt-0.5 block w-full rounded-lg border border-trail/60 bg-paper px-2 py-1.5 text-ink text-sm"
              />
            </label>
            <Button
              disabled={reason.trim() === "" || leave.isPending}
              onClick={() =>
                leave.mutate(
                  { line, reason, left: taken },
                  {
                    onSuccess: () => {
                      setReason("");
                      done();
                    },
                  },
                )
              }
            >
              Leave
            </Button>
          </div>
          {take.isError && <Refused error={take.error} />}
          {leave.isError && <Refused error={leave.error} />}
          <p className="mt-3 text-ink-2 text-xs">
            Taken figures are a new version of the library; plans already made keep the version that they were made for.
            What is left is not offered again until the record says otherwise.
          </p>
        </>
      )}
    </Panel>
  );
}
