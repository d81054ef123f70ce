import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/bricolage-grotesque";
import "@fontsource/atkinson-hyperlegible-mono";
import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "@mantine/spotlight/styles.css";
import "./styles.css";
import "../draft/sheet-head.css";
import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Refused } from "../api/client";
import { App } from "./App";

// An answer is drawn before whatever waits for it goes on: by default it is told of a moment later, and what
// stood in for it meanwhile (a cell as it was typed) would give way to what was there before.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (n, error) => !(error instanceof Refused) && n < 3,
    },
  },
});

// The colours somebody chose, before anything that knows of the choice is loaded.
document.documentElement.dataset.mantineColorScheme =
  localStorage.getItem("mantine-color-scheme-value") ?? "light";

const root = document.getElementById("root");
if (!root) throw new Error("The page has no place for the application.");
const page = createRoot(root);

/** How long the page waits for its letters, in milliseconds; without them it is drawn all the same. */
const LETTERS_MS = 1_000;

// Drawn once its letters are here: what is drawn in others first moves, and a press in that moment goes astray.
void Promise.race([
  Promise.allSettled(
    ["Atkinson Hyperlegible Next", "Bricolage Grotesque"].map((face) =>
      document.fonts.load(`1em "${face} Variable"`),
    ),
  ),
  new Promise((resolve) => setTimeout(resolve, LETTERS_MS)),
]).then(() =>
  page.render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        {/* What the address says is drawn at once: a box that shows it must not lag behind what is typed. */}
        <BrowserRouter useTransitions={false}>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  ),
);
