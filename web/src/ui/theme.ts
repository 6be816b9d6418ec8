// Preferences kept in this browser: light or dark, and which standard the symbols follow.
import { create } from "zustand";
import { persist } from "zustand/middleware";

export type Theme = "light" | "dark";
export type SymbolStandard = "iec" | "ieee";

interface Preferences {
  theme: Theme;
  symbols: SymbolStandard;
  /** Share of the width the left page takes. */
  seam: number;
  set(change: Partial<Pick<Preferences, "theme" | "symbols" | "seam">>): void;
}

const prefersDark = () => window.matchMedia("(prefers-color-scheme: dark)").matches;

export const usePreferences = create<Preferences>()(
  persist(
    (set) => ({
      theme: prefersDark() ? "dark" : "light",
      symbols: "iec",
      seam: 0.56,
      set: (change) => set(change),
    }),
    { name: "lucid-bench.preferences" },
  ),
);

export function applyTheme(): void {
  const apply = ({ theme }: Preferences) => {
    document.documentElement.dataset.theme = theme;
  };
  apply(usePreferences.getState());
  usePreferences.subscribe(apply);
}
