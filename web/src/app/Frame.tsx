/** The walk through a plant; or, where there is none yet, the first page. */
import { usePlant } from "../api/queries";
import { Refused } from "../ui/parts";
import { Shell } from "./Shell";
import { FirstPage } from "./views";

export function Frame() {
  const plant = usePlant();
  if (plant.isError)
    return (
      <div className="m-5">
        <Refused error={plant.error} again={() => plant.refetch()} />
      </div>
    );
  return plant.isPending || plant.data.origin ? <Shell ready={!plant.isPending} /> : <FirstPage />;
}
