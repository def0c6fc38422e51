/** The whole plant: taken out as one file; and the demo, thrown away by its name. */
import { useState } from "react";
import { fileAddress } from "../../api/client";
import { useDiscardDemo, usePlant } from "../../api/queries";
import { plural } from "../../app/format";
import { Dialog } from "../../ui/Dialog";
import { Button, buttonLook, Heading, Loading, Refused } from "../../ui/parts";

export function WholePlant({ onClose }: { onClose: () => void }) {
  const plant = usePlant();
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="The whole plant">
      <p className="text-ink-2 text-sm">
        Library, calendar, orders, stock, and what is on the lines, as one file. An empty Rundgang takes it in and goes
        on from there.
      </p>
      <a href={fileAddress("/api/plant/file.json")} download className={`mt-3 ${buttonLook("strong")}`}>
        Save the whole plant
      </a>
      <p className="mt-3 text-ink-2 text-sm">
        Library and calendar alone, as a workbook to fill in; a Rundgang takes it in where nothing is ordered yet.
      </p>
      <a href={fileAddress("/api/plant/file.xlsx")} download className={`mt-2 ${buttonLook()}`}>
        Save as workbook
      </a>
      {plant.isPending && <Loading what="the plant" />}
      {plant.data?.origin === "demo" && plant.data.contents && <Discard contents={plant.data.contents} />}
    </Dialog>
  );
}

type Contents = NonNullable<NonNullable<ReturnType<typeof usePlant>["data"]>["contents"]>;

function Discard({ contents }: { contents: Contents }) {
  const discard = useDiscardDemo();
  const [name, setName] = useState("");
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        discard.mutate(name, { onSuccess: () => location.assign("/") });
      }}
    >
      <Heading>Throw the demo away</Heading>
      <p className="text-sm">
        This plant is the demo. {plural(contents.lines, "line")}, {plural(contents.products, "product")},{" "}
        {plural(contents.orders, "order")} and {plural(contents.plans, "version")} of this window&apos;s plan go, with
        all windows before, every count, probe and search. Nothing of it can be restored.
      </p>
      <label className="mt-2 block text-sm">
        Type <b>{contents.name}</b> to confirm
        <input
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="mt-1 block w-full rounded border border-trail/60 bg-ground px-2 py-1.5"
        />
      </label>
      <Button type="submit" className="mt-3" disabled={name.trim() !== contents.name || discard.isPending}>
        Delete the demo
      </Button>
      {discard.isError && <Refused error={discard.error} />}
    </form>
  );
}
