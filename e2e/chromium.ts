/** Debian's Chromium, also as root and without a network. */
export const chromium = {
  browserName: "chromium" as const,
  locale: "en-GB",
  timezoneId: "Europe/London",
  launchOptions: {
    executablePath: "/usr/bin/chromium",
    args: [
      "--no-sandbox",
      "--disable-gpu",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
    ],
  },
};
