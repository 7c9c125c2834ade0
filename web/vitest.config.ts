import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    environment: "jsdom",
    include: ["src/**/*.test.{ts,tsx}"],
    setupFiles: ["src/testing/address.ts", "src/testing/patience.ts"],
    // each test leaves the page as it found it; a new one for every file takes as long as the tests
    isolate: false,
    pool: "threads",
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
