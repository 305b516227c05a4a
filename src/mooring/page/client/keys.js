// Keys of the page: they work wherever the pointer was, but where one types, and where the key has
// a use of its own.

const TYPED = "input:not([type=range]):not([type=checkbox]):not([type=radio]), textarea, [contenteditable=true]";
const PRESSED = "button, a, [role=tab], [role=button], [role=checkbox], [role=option], select";
const OWN = new Set([" ", "Enter", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Tab"]);

export function listen(hub) {
  window.addEventListener("keydown", (event) => {
    const at = event.target instanceof Element ? event.target : document.body;
    if (event.altKey || at.closest(TYPED)) return;
    const ctrl = event.ctrlKey || event.metaKey;
    const key = event.key.toLowerCase();
    if (ctrl && key !== "z" && key !== "y") return;
    if (OWN.has(event.key) && at.closest(`${PRESSED}, input`)) return;
    if (event.key === "Tab" || event.key === "Enter" || event.key.startsWith("Arrow")) return;
    // A key that is held down asks once.
    if (event.repeat) return;
    if (event.key === " " || ctrl) event.preventDefault();
    hub.ask("key", { key, ctrl, shift: event.shiftKey });
  });
  for (const skip of document.querySelectorAll(".m-skip")) {
    skip.addEventListener("click", () => document.querySelector(skip.dataset.to)?.focus());
  }
  // What was clicked on keeps no key for itself; a tab, a slider and a field do.
  window.addEventListener("pointerup", () => {
    setTimeout(() => {
      const at = document.activeElement;
      if (at?.matches("button:not([role=tab]):not(.m-skip), [role=checkbox], [role=button]")) at.blur();
    });
  });
}
