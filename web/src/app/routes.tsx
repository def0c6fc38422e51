/** Which page stands at which address. */
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, type RouteObject, RouterProvider } from "react-router";
import { pastWindow, windowAddress } from "../api/client";
import { queries } from "../api/queries";
import { Empty } from "../ui/parts";
import { Broken } from "./Broken";
import { Frame } from "./Frame";
import { UnitsProvider } from "./UnitsProvider";
import { views } from "./views";

const routes: RouteObject[] = [
  {
    element: <Frame />,
    errorElement: <Broken />,
    children: [
      { path: "/", element: <Navigate to="/plan" replace /> },
      { path: "/orders", element: <views.orders /> },
      { path: "/plan/:number?", element: <views.plan /> },
      { path: "/now", element: <views.now /> },
      { path: "/board", element: <views.board /> },
      { path: "/instruments", element: <views.instruments /> },
      { path: "/stop/:number", element: <views.stop /> },
      { path: "/stops", element: <views.stops /> },
      { path: "/checks", element: <views.checks /> },
      { path: "/odds", element: <views.odds /> },
      { path: "/quality", element: <views.quality /> },
      { path: "/account", element: <views.account /> },
      { path: "/learning", element: <views.learning /> },
      { path: "/upkeep", element: <views.upkeep /> },
      { path: "/mock-recall/:number?", element: <views.mockRecall /> },
      { path: "/records", element: <views.records /> },
      { path: "/lots/:number", element: <views.lots /> },
      { path: "/weigh/:line/:run/:key", element: <views.weigh /> },
      { path: "/dispatch", element: <views.dispatch /> },
      { path: "/sheet", element: <views.sheet /> },
      { path: "/dough/:number?/:run?/:batch?", element: <views.dough /> },
      { path: "/line/:line?/:product?", element: <views.line /> },
      { path: "/materials/:item?", element: <views.materials /> },
      { path: "/calendar", element: <views.calendar /> },
      { path: "/plant/:kind?/:id?", element: <views.plant /> },
      { path: "/calculators/:entry?", element: <views.calculators /> },
      { path: "/print/:number?", element: <views.print /> },
      {
        path: "*",
        element: <Empty title="There is nothing at this address">Take one of the stops on the walk above.</Empty>,
      },
    ],
  },
  { path: "/walk/:line?/:station?", element: <views.walk />, errorElement: <Broken /> },
];

/** Draw the page that the address names. */
export function show() {
  const root = document.getElementById("root");
  if (!root) return;
  const router = createBrowserRouter(routes, { basename: pastWindow ? windowAddress(pastWindow) : "/" });
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <UnitsProvider>
          <RouterProvider router={router} />
        </UnitsProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
