/** Puts a panel on the page. Which one stands in the address; its key comes after the #, which no server sees. */
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { takeKey } from "./panel-key.ts";
import { PanelPage } from "./panel-page.tsx";
import "../tokens.css";

const place = document.getElementById("panel");
const slug = window.location.pathname.split("/")[2] ?? "";
if (place) {
  const manifest = document.createElement("link");
  manifest.rel = "manifest";
  manifest.href = `/panel/${slug}/app.webmanifest`;
  document.head.append(manifest);
  // Without it the panel works as ever, with a connection.
  navigator.serviceWorker?.register("/panel-worker.js", { scope: "/panel/" }).catch(() => {});
  createRoot(place).render(
    <StrictMode>
      <PanelPage slug={slug} firstKey={takeKey(slug)} />
    </StrictMode>,
  );
}
