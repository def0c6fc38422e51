import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, type RouteObject, RouterProvider } from "react-router";
import { pastWindow, windowAddress } from "../api/client";
import { followEvents } from "../api/events";
import { askAhead, queries } from "../api/queries";
import { Empty } from "../ui/parts";
import { Broken } from "./Broken";
import { Frame } from "./Frame";
import "./theme.css";
import { learnManner } from "./moments";
import { startTheme } from "./theme";
import { UnitsProvider } from "./UnitsProvider";
import {
  CalculatorsView,
  CalendarView,
  DoughView,
  LineView,
  loadViews,
  MaterialsView,
  OrdersView,
  PlanScreen,
  PlantView,
  PrintView,
} from "./views";

/** A page first shows what it is for; whoever listens then asks once more for what has changed meanwhile. */
const LISTENS_AFTER_MS = 1_500;

startTheme();
loadViews(location.pathname);
askAhead(queries);
learnManner();
setTimeout(() => followEvents(queries), LISTENS_AFTER_MS);
setNonce(document.querySelector<HTMLMetaElement>('meta[name="nonce"]')?.content ?? "");

const routes: RouteObject[] = [
  {
    element: <Frame />,
    errorElement: <Broken />,
    children: [
      { path: "/", element: <Navigate to="/plan" replace /> },
      { path: "/orders", element: <OrdersView /> },
      { path: "/plan/:number?", element: <PlanScreen /> },
      { path: "/dough/:number?/:run?/:batch?", element: <DoughView /> },
      { path: "/line/:line?/:product?", element: <LineView /> },
      { path: "/materials/:item?", element: <MaterialsView /> },
      { path: "/calendar", element: <CalendarView /> },
      { path: "/plant/:kind?/:id?", element: <PlantView /> },
      { path: "/calculators/:entry?", element: <CalculatorsView /> },
      { path: "/print/:number?", element: <PrintView /> },
      {
        path: "*",
        element: <Empty title="There is nothing at this address">Take one of the stops on the walk above.</Empty>,
      },
    ],
  },
];
const router = createBrowserRouter(routes, { basename: pastWindow ? windowAddress(pastWindow) : "/" });

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <UnitsProvider>
          <RouterProvider router={router} />
        </UnitsProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
