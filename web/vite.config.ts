import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    // inlined fonts would be blocked by the content security policy
    assetsInlineLimit: 0,
    sourcemap: false,
  },
  server: {
    port: Number(process.env.WEB_PORT ?? 5173),
    strictPort: true,
    proxy: { "/api": process.env.API_URL ?? "http://127.0.0.1:8010" },
  },
});
