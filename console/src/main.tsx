import "@fontsource-variable/archivo/wdth.css";
import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/500.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { ProblemError } from "./api/client";
import { CataloguePage } from "./catalogue/CataloguePage";
import { Frame } from "./Frame";
import { Empty } from "./parts/Notice";
import "./theme/theme.css";

const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: "/", element: <Navigate to="/catalogue" replace /> },
      { path: "/catalogue", element: <CataloguePage /> },
      {
        path: "/catalogue/:team/:name",
        lazy: async () => ({ Component: (await import("./catalogue/TemplatePage")).TemplatePage }),
      },
      {
        path: "/cast/:team/:name",
        lazy: async () => ({ Component: (await import("./cast/CastPage")).CastPage }),
      },
      { path: "/login", lazy: async () => ({ Component: (await import("./account/LoginPage")).LoginPage }) },
      {
        path: "/account",
        lazy: async () => ({ Component: (await import("./account/AccountPage")).AccountPage }),
      },
      { path: "*", element: <Empty title="There is nothing at this address." /> },
    ],
  },
]);

// What the service refuses stays refused; only what may pass is tried again.
const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      retry: (failures, error) =>
        failures < 3 && error instanceof ProblemError && (error.status === 0 || error.status === 503),
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
