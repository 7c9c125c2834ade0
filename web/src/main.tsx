import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/jetbrains-mono";
import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app";

const nonce = document.querySelector<HTMLMetaElement>("meta[name=csp-nonce]")?.content;
const cache = createCache({ key: "cs", nonce });
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <CacheProvider value={cache}>
        <App />
      </CacheProvider>
    </StrictMode>,
  );
