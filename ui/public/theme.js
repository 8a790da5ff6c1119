// Before the first paint: the theme chosen on this machine, else the system's.
(() => {
  let chosen = null;
  try {
    chosen = localStorage.getItem("theme");
  } catch {
    // A browser without storage follows the system.
  }
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
})();
