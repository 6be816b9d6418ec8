// Changes of a document as operations of JSON Patch (RFC 6902): found between two, and carried out.
import type { Change } from "./types";

/** What makes `now` of `before`. What is the very same in both is not looked into, so that two
 * documents of which one was edited out of the other are compared at once. */
export function changesBetween(before: unknown, now: unknown): Change[] {
  const found: Change[] = [];
  compare(before, now, "", found);
  return found;
}

function compare(before: unknown, now: unknown, path: string, found: Change[]): void {
  if (before === now) return;
  if (Array.isArray(before) && Array.isArray(now)) compareLists(before, now, path, found);
  else if (isObject(before) && isObject(now)) {
    for (const key of Object.keys(before))
      if (now[key] === undefined) found.push({ op: "remove", path: `${path}/${escaped(key)}` });
    for (const [key, value] of Object.entries(now)) {
      const at = `${path}/${escaped(key)}`;
      if (value === undefined) continue;
      if (before[key] === undefined) found.push({ op: "add", path: at, value });
      else compare(before[key], value, at, found);
    }
  } else found.push({ op: "replace", path, value: now });
}

/** Lists are alike at both ends; what is between has changed item by item, or come, or gone. */
function compareLists(before: unknown[], now: unknown[], path: string, found: Change[]): void {
  const shorter = Math.min(before.length, now.length);
  let head = 0;
  while (head < shorter && before[head] === now[head]) head++;
  let tail = 0;
  while (tail < shorter - head && before.at(-1 - tail) === now.at(-1 - tail)) tail++;
  const [old, fresh] = [before.length - head - tail, now.length - head - tail];
  const both = Math.min(old, fresh);
  for (let k = head; k < head + both; k++) compare(before[k], now[k], `${path}/${k}`, found);
  for (let k = old - 1; k >= both; k--) found.push({ op: "remove", path: `${path}/${head + k}` });
  for (let k = both; k < fresh; k++)
    found.push({ op: "add", path: `${path}/${head + k}`, value: now[head + k] });
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

const escaped = (key: string) => key.replace(/~/g, "~0").replace(/\//g, "~1");

/** Carries out changes that replace what is there or add to the end of a list, in a draft that may be
 * changed. */
export function carryOut(draft: object, changes: Change[]): void {
  for (const { op, path, value } of changes) {
    const steps = path.split("/").slice(1).map(plain);
    const last = steps.pop() as string;
    const place = steps.reduce((held, step) => held[step] as Held, draft as Held);
    if (op === "add" && Array.isArray(place)) place.push(value);
    else place[last] = value;
  }
}

type Held = Record<string, unknown>;

const plain = (step: string) => step.replace(/~1/g, "/").replace(/~0/g, "~");
