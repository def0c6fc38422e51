/** The plant's currency; nothing is shown in it where it has none. */
import { useLibrary } from "../api/queries";

export const useCurrency = () => useLibrary().data?.library.plant.currency ?? "";
