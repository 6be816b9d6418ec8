// A command: told once, for menus, buttons, keys and the palette.

export interface Command {
  name: string;
  /** As it is shown: "R", "Ctrl D", "Shift Delete"; `also` are others that do the same. */
  keys?: string;
  also?: string[];
  /** By which else it is found. */
  words?: string[];
  run(): void;
}

/** Whether the key that was pressed is a command's. */
export const isKeyOf = (command: Command, event: KeyboardEvent): boolean =>
  [command.keys, ...(command.also ?? [])].some((keys) => keys && isPressed(keys, event));

function isPressed(keys: string, event: KeyboardEvent): boolean {
  const held = keys.split(" ");
  const key = held.pop() as string;
  const isBare = !held.length && key.length === 1;
  return (
    event.key.toLowerCase() === key.toLowerCase() &&
    held.includes("Ctrl") === (event.ctrlKey || event.metaKey) &&
    held.includes("Alt") === event.altKey &&
    // What is on a key alone is not asked how it came about: "+" is held with Shift on many keyboards.
    (isBare || held.includes("Shift") === event.shiftKey)
  );
}
