/** Light or dark: the system's choice until the user makes one, which is remembered. */
const KEY = "rundgang.theme";

const shown = () => document.documentElement.dataset.theme ?? "light";

export function startTheme() {
  const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = localStorage.getItem(KEY) ?? (dark ? "dark" : "light");
}

export function toggledTheme() {
  const theme = shown() === "dark" ? "light" : "dark";
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(KEY, theme);
}
