/** Paper by day, ink by night; the choice is remembered in this browser. */
export function switchTheme() {
  const dark = document.documentElement.classList.toggle("dark");
  localStorage.setItem("theme", dark ? "dark" : "light");
}
