import { defineConfig } from "@playwright/test";
import { chromium } from "./chromium.ts";

export default defineConfig({
  testDir: "tests",
  outputDir: "test-results",
  workers: 2,
  fullyParallel: false,
  forbidOnly: Boolean(process.env.CI),
  // A second try keeps a slow machine from failing everything; the list still says "flaky".
  retries: process.env.CI ? 1 : 0,
  // A machine that is shared can be many times slower for a while.
  timeout: process.env.CI ? 120_000 : 60_000,
  expect: { timeout: process.env.CI ? 25_000 : 10_000 },
  reporter: [["list"]],
  use: { ...chromium, locale: "en-GB", viewport: { width: 1280, height: 800 }, screenshot: "only-on-failure" },
});
