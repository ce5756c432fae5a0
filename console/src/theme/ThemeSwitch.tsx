import { Moon, Sun } from "lucide-react";
import { useState } from "react";

/** Switches between the light and the dark theme, and remembers which. */
export function ThemeSwitch() {
  const [theme, setTheme] = useState(document.documentElement.dataset.theme);
  const other = theme === "dark" ? "light" : "dark";
  const turn = () => {
    document.documentElement.dataset.theme = other;
    localStorage.setItem("theme", other);
    setTheme(other);
  };
  return (
    <button
      type="button"
      onClick={turn}
      aria-label={`Use the ${other} theme`}
      className="rounded p-2 text-muted hover:text-text"
    >
      {theme === "dark" ? <Sun size={18} /> : <Moon size={18} />}
    </button>
  );
}
