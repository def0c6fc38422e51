/** The walk through a plant; or, where there is none yet, the first page. */
import { usePlant } from "../api/queries";
import { Loading, Refused } from "../ui/parts";
import { FirstPage } from "../views/first/FirstPage";
import { Shell } from "./Shell";

export function Frame() {
  const plant = usePlant();
  if (plant.isPending) return <Loading what="the plant" />;
  if (plant.isError)
    return (
      <div className="m-5">
        <Refused error={plant.error} again={() => plant.refetch()} />
      </div>
    );
  return plant.data.origin ? <Shell /> : <FirstPage />;
}
