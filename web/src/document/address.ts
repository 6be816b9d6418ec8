// Where the stations of an exercise are: each has an address, so that a link can lead there.
import { navigate } from "wouter/use-browser-location";
import { useExercise } from "./store";

export const STATIONS = ["predict", "simulate", "measure", "compare"] as const;
export type Station = (typeof STATIONS)[number];

export const isStation = (text: string | undefined): text is Station =>
  STATIONS.some((station) => station === text);

export const addressOf = (id: number, station: Station) => `/exercises/${id}/${station}`;

/** Turn to a station of the open exercise. Going back leads out of the exercise, not through all of them. */
export function turnTo(station: Station): void {
  const { id } = useExercise.getState();
  if (id) navigate(addressOf(id, station), { replace: true });
}
