// What a browser has and jsdom has not, as far as panels need it.
import "@testing-library/jest-dom/vitest";
import { cleanup, configure } from "@testing-library/react";
import { afterEach, beforeEach, vi } from "vitest";
import { beginServer, endServer } from "./server";

configure({
  asyncUtilTimeout: 15_000, // ms, on a busy machine
  getElementError: (message) => new Error(message ?? "not found"),
});

class Observer {
  observe() {}
  unobserve() {}
  disconnect() {}
}

Object.assign(globalThis, { ResizeObserver: Observer, IntersectionObserver: Observer });
Object.assign(window, {
  matchMedia: () => Object.assign(new EventTarget(), { matches: false }),
  scrollTo: () => undefined,
});
Object.assign(Element.prototype, {
  scrollIntoView: () => undefined,
  hasPointerCapture: () => false,
  setPointerCapture: () => undefined,
  releasePointerCapture: () => undefined,
  checkVisibility: () => true,
});
Object.assign(document, { fonts: { load: async () => [], ready: Promise.resolve() } });
// It has no style for what MathML is made of.
const styleOf = window.getComputedStyle.bind(window);
window.getComputedStyle = (element, pseudo) =>
  styleOf(
    element instanceof HTMLElement || element instanceof SVGElement ? element : document.body,
    pseudo,
  );
HTMLCanvasElement.prototype.getContext = () => null;

beforeEach(beginServer);
afterEach(() => {
  cleanup();
  endServer();
  vi.useRealTimers();
  localStorage.clear();
  sessionStorage.clear();
});
