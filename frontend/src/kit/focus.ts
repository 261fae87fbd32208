/** Where keys go: to the control that has the focus, or to the program. Everything that asks, asks here. */

/** What is typed into takes every key; of other inputs only their own. */
const TYPED = new Set(["text", "search", "number", "email", "password", "tel", "url", "date", "time", "month", "week", "datetime-local"]);
const PRESSED = "button, a[href], summary, input[type=checkbox], input[type=radio], [role=button], [role=radio], [role=tab], [role=option], tr[tabindex]";

let byPointer = true;
if (typeof window !== "undefined") {
  window.addEventListener("pointerdown", () => (byPointer = true), true);
  window.addEventListener("mousedown", () => (byPointer = true), true);
  window.addEventListener("keydown", (event) => {
    if (event.key === "Tab" || event.key.startsWith("Arrow")) byPointer = false;
  }, true);
}

/** Whether the focus went where it is by a click: then Enter is not meant for that button or row. */
export const focusedByPointer = (): boolean => byPointer;

/** Whether a key (as it is written: `Ctrl+Z`) belongs to the control that has the focus. */
export function belongsTo(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest("[role=dialog]")) return true;
  const typed = target instanceof HTMLTextAreaElement || target.isContentEditable || (target instanceof HTMLInputElement && TYPED.has(target.type));
  if (typed) {
    // A field that holds a value has taken these before; of the others they say what they say anywhere.
    if (key === "Escape") return false;
    return key !== "Enter" || target instanceof HTMLTextAreaElement || target.closest("form") !== null;
  }
  if (key === "Enter" || key === " ") return key === " " ? target.matches(`select, ${PRESSED}`) : target.matches(PRESSED) && !byPointer;
  if (target instanceof HTMLSelectElement || target instanceof HTMLInputElement) return /^(Arrow|Home|End|Page)/.test(key);
  return false;
}

/** Enter where no control and no tool takes it: the main button of the form that the focus is in. Whether there is one. */
export function enterForm(target: EventTarget | null): boolean {
  const form = target instanceof HTMLElement ? target.closest("form") : null;
  const main = form?.querySelector<HTMLButtonElement>("button[type=submit]");
  if (!form || !main || main.disabled) return false;
  form.requestSubmit(main);
  return true;
}
