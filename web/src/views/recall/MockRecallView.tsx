/** A mock recall: a bag came back; its source and all else of that source are found against a stop-watch. */
import { useEffect, useReducer, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useAnswerRecall, useBeginRecall, useMockRecall, useMockRecalls } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { Button, buttonLook, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";

type View = Schemas["MockRecallView"];
type Answered = NonNullable<View["recall"]["answered"]>;

const SECOND_MS = 1_000;
const SECONDS_PER_MINUTE = 60;

const watch = (seconds: number) =>
  `${Math.floor(seconds / SECONDS_PER_MINUTE)}:${String(Math.floor(seconds % SECONDS_PER_MINUTE)).padStart(2, "0")}`;

export function MockRecallView() {
  const { number } = useParams();
  return number ? <One key={number} number={Number(number)} /> : <All />;
}

function All() {
  const found = useMockRecalls();
  const begin = useBeginRecall();
  const navigate = useNavigate();
  return (
    <>
      <Header
        title="Mock recall"
        sub="a bag comes back: find where its ingredient came from, and all that holds some of it"
        actions={
          <Button
            weight="strong"
            disabled={begin.isPending}
            onClick={() =>
              begin.mutate(undefined, { onSuccess: ({ recall }) => navigate(`/mock-recall/${recall.number}`) })
            }
          >
            Start the stop-watch
          </Button>
        }
      />
      {begin.isError && (
        <div className="mx-2 mb-2">
          <Refused error={begin.error} />
        </div>
      )}
      {found.isError && <Refused error={found.error} again={() => found.refetch()} />}
      {found.isPending && <Loading what="the mock recalls" />}
      {found.data && (
        <Panel label="Practised" className="mx-2 mb-2 p-4">
          <h2 className="mb-1 font-bold">Practised</h2>
          {found.data.length === 0 && <p className="text-ink-2 text-sm">Nobody has practised one yet.</p>}
          <ol>
            {found.data.map((one) => (
              <li
                key={one.recall.number}
                className="flex flex-wrap justify-between gap-x-6 border-rule border-b py-1.5 text-sm"
              >
                <Link className="underline" to={`/mock-recall/${one.recall.number}`}>
                  {one.what}, {one.code}
                </Link>
                <span>
                  {one.recall.answered ? (
                    <>
                      <b className={one.recall.answered.judgement.right ? "text-steam" : "text-ember"}>
                        {one.recall.answered.judgement.right ? "all right" : "not all right"}
                      </b>{" "}
                      in {watch(one.recall.answered.seconds)}
                    </>
                  ) : (
                    "not answered yet"
                  )}
                  <span className="text-ink-2">, {one.recall.author}</span>
                </span>
              </li>
            ))}
          </ol>
        </Panel>
      )}
    </>
  );
}

function One({ number }: { number: number }) {
  const found = useMockRecall(number);
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the mock recall" />;
  return <Task view={found.data} readAt={found.dataUpdatedAt} />;
}

/** Seconds since it began, by the server's clock as it was read. */
function useSeconds(view: View, readAt: number) {
  const [, tick] = useReducer((count: number) => count + 1, 0);
  const runs = view.recall.answered === null;
  useEffect(() => {
    if (!runs) return;
    const timer = setInterval(tick, SECOND_MS);
    return () => clearInterval(timer);
  }, [runs]);
  const begun = Date.parse(view.now) - Date.parse(view.recall.begun_at) + Date.now() - readAt;
  return view.recall.answered?.seconds ?? Math.max(0, begun / SECOND_MS);
}

function Task({ view, readAt }: { view: View; readAt: number }) {
  const seconds = useSeconds(view, readAt);
  const { answered } = view.recall;
  return (
    <>
      <Header
        title="Mock recall"
        sub={`begun by ${view.recall.author}`}
        figures={<Figure value={watch(seconds)} label={answered ? "it took" : "stop-watch, min:s"} />}
        actions={
          <Link to="/mock-recall" className={buttonLook()}>
            All mock recalls
          </Link>
        }
      />
      <Panel label="What came back" className="mx-2 mb-2 p-5">
        <p className="text-lg">
          A customer has sent back a bag of <b>{view.what}</b>. On its label:{" "}
          <b className="whitespace-nowrap">{view.code}</b>.
        </p>
        <p className="mt-1 text-ink-2">
          Find a lot of <b>{view.ingredient}</b> in it; and of all packs that hold some of that lot, how many were
          loaded, on how many lorries.{" "}
          <Link className="underline" to={`/records?words=${encodeURIComponent(view.code)}`}>
            The records
          </Link>{" "}
          say it; the stop-watch goes on meanwhile.
        </p>
        {answered ? <Outcome answered={answered} view={view} /> : <Answer view={view} />}
      </Panel>
    </>
  );
}

const FIELD = "mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base text-ink";

function Answer({ view }: { view: View }) {
  const [source, setSource] = useState("");
  const [packs, setPacks] = useState("");
  const [lorries, setLorries] = useState("");
  const answer = useAnswerRecall();
  const isCount = (text: string) => /^\d{1,8}$/.test(text.trim());
  return (
    <form
      className="mt-4 grid max-w-xl gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        answer.mutate({
          number: view.recall.number,
          source: source.trim(),
          packs: Number(packs),
          lorries: Number(lorries),
        });
      }}
    >
      <label className="text-sm">
        The lot of {view.ingredient}
        <input className={FIELD} value={source} maxLength={120} onChange={(event) => setSource(event.target.value)} />
      </label>
      <label className="text-sm">
        Packs that were loaded
        <input className={FIELD} inputMode="numeric" value={packs} onChange={(event) => setPacks(event.target.value)} />
      </label>
      <label className="text-sm">
        Lorries they were loaded on
        <input
          className={FIELD}
          inputMode="numeric"
          value={lorries}
          onChange={(event) => setLorries(event.target.value)}
        />
      </label>
      {answer.isError && <Refused error={answer.error} />}
      <Button
        type="submit"
        weight="strong"
        size="touch"
        className="justify-self-start"
        disabled={source.trim() === "" || !isCount(packs) || !isCount(lorries) || answer.isPending}
      >
        Stop the stop-watch
      </Button>
    </form>
  );
}

function Outcome({ answered, view }: { answered: Answered; view: View }) {
  const { answer, judgement } = answered;
  const rows = [
    {
      what: `The lot of ${view.ingredient}`,
      said: answer.source,
      good: judgement.source,
      right: judgement.sources.join(", "),
    },
    {
      what: "Packs that were loaded",
      said: whole(answer.packs),
      good: judgement.packs,
      right: judgement.right_packs == null ? undefined : whole(judgement.right_packs),
    },
    {
      what: "Lorries",
      said: whole(answer.lorries),
      good: judgement.lorries,
      right: judgement.right_lorries == null ? undefined : whole(judgement.right_lorries),
    },
  ];
  return (
    <div className="mt-4 max-w-2xl">
      <Notice
        tone={judgement.right ? "good" : "wrong"}
        title={
          judgement.right
            ? `All right, in ${watch(answered.seconds)}.`
            : `${plural(rows.filter((row) => !row.good).length, "answer")} of three not right, in ${watch(answered.seconds)}.`
        }
      />
      <dl className="mt-2 text-sm">
        {rows.map((row) => (
          <div key={row.what} className="flex flex-wrap justify-between gap-x-6 border-rule border-b py-1.5">
            <dt className="text-ink-2">{row.what}</dt>
            <dd>
              <b className={row.good ? "text-steam" : "text-ember"}>{row.said}</b>
              {!row.good && (
                <span> – {row.right ? `right: ${row.right}` : "not counted, as the lot is not right"}</span>
              )}
            </dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
