// Sets the theme before the first paint, so that a page never flashes.
const kept = localStorage.getItem("theme");
const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
document.documentElement.dataset.theme = dark ? "dark" : "light";
