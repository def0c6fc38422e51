/** What a page begins with: its code and what it will ask of the server set out at once; what draws it follows. */
import { setNonce } from "get-nonce";
import { followEvents } from "../api/events";
import { askAhead, queries } from "../api/queries";
import "./theme.css";
import { learnManner } from "./moments";
import { startTheme } from "./theme";
import { loadViews } from "./views";

/** A page first shows what it is for; whoever listens then asks once more for what has changed meanwhile. */
const LISTENS_AFTER_MS = 1_500;

startTheme();
loadViews(location.pathname);
askAhead(queries);
learnManner();
setTimeout(() => followEvents(queries), LISTENS_AFTER_MS);
setNonce(document.querySelector<HTMLMetaElement>('meta[name="nonce"]')?.content ?? "");

/** The largest library, what the pages have in common, the first drawing: each a task of its own, and none of them long. */
await import("react-dom/client");
const { show } = await import("./routes");
setTimeout(show);
