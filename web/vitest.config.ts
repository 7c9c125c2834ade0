import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    environment: "jsdom",
    include: ["src/**/*.test.{ts,tsx}"],
    setupFiles: ["src/testing/address.ts", "src/testing/patience.ts"],
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
