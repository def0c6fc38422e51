import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, type RouteObject, RouterProvider } from "react-router";
import { pastWindow, windowAddress } from "../api/client";
import { followEvents } from "../api/events";
import { queries } from "../api/queries";
import { Empty } from "../ui/parts";
import { CalculatorsView } from "../views/calculators/CalculatorsView";
import { CalendarView } from "../views/calendar/CalendarView";
import { DoughView } from "../views/dough/DoughView";
import { LineView } from "../views/line/LineView";
import { MaterialsView } from "../views/materials/MaterialsView";
import { OrdersView } from "../views/orders/OrdersView";
import { PlanScreen } from "../views/plan/PlanScreen";
import { PlantView } from "../views/plant/PlantView";
import { PrintView } from "../views/print/PrintView";
import { Broken } from "./Broken";
import { Frame } from "./Frame";
import "./theme.css";
import { startTheme } from "./theme";
import { UnitsProvider } from "./UnitsProvider";

startTheme();
followEvents(queries);
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
