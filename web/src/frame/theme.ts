import { useState } from "react";

export type Theme = "light" | "dark";

export const savedTheme = (): Theme =>
  localStorage.getItem("theme") === "dark" ? "dark" : "light";

export const wear = (theme: Theme) => document.documentElement.setAttribute("data-theme", theme);

/** Light or dark panels, kept for this browser. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState(savedTheme);
  const turn = () => {
    const next = savedTheme() === "dark" ? "light" : "dark";
    localStorage.setItem("theme", next);
    wear(next);
    setTheme(next);
  };
  return [theme, turn];
}
