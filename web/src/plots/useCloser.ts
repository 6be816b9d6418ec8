// The points of a stretch of the axis, which are asked for as one looks closer.
import { useRef, useState } from "react";
import { isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import type { RunLook } from "../api/types";
import { say } from "../ui/Toasts";

/** A stretch of the axis with all its points, where the curves are thinned to what a screen shows. It is
 * of the very result that is drawn, whatever the circuit is by now. */
export function useCloser(whole: RunLook) {
  const [closer, setCloser] = useState<{ of: RunLook; look: RunLook } | null>(null);
  // An answer that comes after the eye has moved on must not call it back.
  const turns = useRef(0);
  const turned = () => {
    turns.current += 1;
  };
  const zoom = async (window: [number, number] | null) => {
    turned();
    const asked = turns.current;
    if (!window || !(whole.is_thinned || closer)) {
      setCloser(null);
      return;
    }
    try {
      const look = await askOnLine("closer", { result: whole.result, window });
      if (look.curves.length && asked === turns.current) setCloser({ of: whole, look });
    } catch (error) {
      const forgotten = "To see more points here, run it again.";
      say(isForgotten(error) ? forgotten : (error as Error).message);
    }
  };
  return { look: closer?.of === whole ? closer.look : whole, zoom, turned };
}
