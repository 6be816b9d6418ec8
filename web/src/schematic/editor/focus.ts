// Where the keys go: to the sheet, wherever no field has them.

export const focusSheet = () =>
  document.querySelector<HTMLElement>(".sheet")?.focus({ preventScroll: true });

const FIELDS =
  "textarea, select, [contenteditable=true], [role=combobox], input:not([type=range], [type=checkbox])";
const OWN_KEYS = "[role=menu], [role=listbox], [role=dialog]:not([data-card])";

/** Whether a key pressed at an element is meant for the sheet. `inHand` is whether something is being
 * placed or drawn: then every key is, else what would be typed. */
export function isForSheet(event: KeyboardEvent, inHand: boolean): boolean {
  const at = event.target as HTMLElement;
  if (event.defaultPrevented || at.closest(FIELDS) || at.closest(OWN_KEYS)) return false;
  if (at.closest(".sheet") || at === document.body || inHand) return true;
  const isTyped = event.key.length === 1 && event.key !== " ";
  return isTyped && !event.ctrlKey && !event.metaKey && !event.altKey;
}

/** Gives the focus to the first field of an open card, its text selected; false where it has it. */
export function focusCard(): boolean {
  const card = document.querySelector<HTMLElement>("[data-card]");
  if (!card || card.contains(document.activeElement)) return false;
  const first = card.querySelector<HTMLInputElement>("[data-first]");
  first?.focus();
  first?.select();
  return first !== null;
}
