import "@fontsource-variable/atkinson-hyperlegible-next/index.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/index.css";
import "./index.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { Toaster } from "sonner";
import { Library } from "./screens/library/Library.tsx";
import { Lost } from "./ui/Lost.tsx";
import { Waiting } from "./ui/Waiting.tsx";

const Bench = lazy(() => import("./screens/bench/Bench.tsx"));
const Characters = lazy(() => import("./screens/characters/Characters.tsx"));
const Checkup = lazy(() => import("./screens/checkup/Checkup.tsx"));

const router = createBrowserRouter([
  { path: "/", element: <Library />, errorElement: <Lost /> },
  {
    path: "/work/:id",
    element: (
      <Suspense fallback={<Waiting label="Opening the bench" />}>
        <Bench />
      </Suspense>
    ),
    errorElement: <Lost />,
  },
  {
    path: "/work/:id/checkup",
    element: (
      <Suspense fallback={<Waiting label="Opening the checkup" />}>
        <Checkup />
      </Suspense>
    ),
    errorElement: <Lost />,
  },
  ...["/characters", "/characters/:id"].map((path) => ({
    path,
    element: (
      <Suspense fallback={<Waiting label="Opening the characters" />}>
        <Characters />
      </Suspense>
    ),
    errorElement: <Lost />,
  })),
  { path: "*", element: <Lost /> },
]);

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <Tooltip.Provider delayDuration={400}>
          <RouterProvider router={router} />
        </Tooltip.Provider>
        <Toaster
          position="bottom-right"
          toastOptions={{ style: { background: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--line)", borderRadius: 4 } }}
        />
      </QueryClientProvider>
    </StrictMode>,
  );
}
