// What was asked for by a press and failed: said at the foot of the page, where nothing else says it.
import { Refused, Unreachable } from "../api/client";
import { say } from "./Toasts";

export function tellFailures(): void {
  window.addEventListener("unhandledrejection", (event) => {
    const { reason } = event;
    if (!(reason instanceof Refused || reason instanceof Unreachable)) return;
    event.preventDefault();
    say(reason.message);
  });
}
