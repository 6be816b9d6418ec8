// Keys that lead from one part of the page to another: F6 through them all, Alt and a letter to a station.
import { useEffect } from "react";
import { turnTo } from "../document/address";
import { PAGES } from "./pages";

// In the order F6 goes through them, with what takes the focus in each.
const LANDMARKS = [
  { place: "section[aria-label=Schematic]", focus: ".sheet" },
  { place: "section[aria-label=Stations]", focus: "[role=tab][aria-selected=true]" },
  { place: "header", focus: "header button" },
] as const;

const focusOn = (landmark: (typeof LANDMARKS)[number]) =>
  document.querySelector<HTMLElement>(landmark.focus)?.focus({ preventScroll: true });

export function useStationKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "F6") {
        event.preventDefault();
        goOn(event.shiftKey ? -1 : 1);
        return;
      }
      if (!event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
      const page = PAGES.find(({ keys }) => keys === `Alt ${event.key.toUpperCase()}`);
      if (!page) return;
      event.preventDefault();
      turnTo(page.station);
      // The tab is chosen only after the page was turned.
      setTimeout(() => focusOn(LANDMARKS[1]));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}

function goOn(by: 1 | -1): void {
  const here = LANDMARKS.findIndex(({ place }) => document.activeElement?.closest(place));
  const next = (here + by + LANDMARKS.length) % LANDMARKS.length;
  focusOn(LANDMARKS[next] ?? LANDMARKS[0]);
}
