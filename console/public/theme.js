// Before the first paint: the theme that was chosen, or that of the system.
(() => {
  const chosen = localStorage.getItem("theme");
  const dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.classList.toggle("dark", dark);
})();
