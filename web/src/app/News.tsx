/** What others have changed, said on every page: nothing that one looks at is swapped without a word. */
import { Link, useLocation } from "react-router";
import { dismissNews, type News, useHappenings } from "../api/events";

const SAID: Record<string, { what: string; to?: string; see?: string }> = {
  calendar: { what: "The calendar has changed.", to: "/calendar", see: "Calendar" },
  conditions: { what: "The conditions of the room, flour or water have changed; so have the batch cards." },
  library: { what: "The plant's data have changed.", to: "/plant", see: "Plant" },
  opening: { what: "Stock or downtime has changed." },
  orders: { what: "The orders have changed.", to: "/orders", see: "Orders" },
  plan: { what: "There is a newer version of the plan.", to: "/plan", see: "Newest plan" },
  published: { what: "Another plan has gone live on the floor." },
  window: { what: "The planning window has gone on to the next day.", to: "/plan", see: "Newest plan" },
  plant: { what: "The plant has been replaced. Load this page again." },
};

export function NewsStrip() {
  const { news } = useHappenings();
  const { pathname } = useLocation();
  const said = news.filter((one) => SAID[one.what] && !(one.what === "plan" && pathname.startsWith("/plan")));
  return (
    <div role="status" className="no-print fixed right-3 bottom-3 z-20 grid max-w-sm gap-2">
      {said.map((one) => (
        <Item key={one.id} one={one} />
      ))}
    </div>
  );
}

function Item({ one }: { one: News }) {
  const said = SAID[one.what];
  return (
    <div className="flex items-start gap-3 rounded-lg border border-trail bg-paper px-4 py-2.5 text-sm shadow-lg">
      <p className="flex-1">
        {said?.what}{" "}
        {said?.to && (
          <Link to={said.to} className="font-semibold underline" onClick={() => dismissNews(one.id)}>
            {said.see}
          </Link>
        )}
      </p>
      <button type="button" className="text-ink-2 underline" onClick={() => dismissNews(one.id)}>
        Close
      </button>
    </div>
  );
}
