// The panels beside the view are as wide as one draws them; the view keeps half of the window.

const KEPT = "mooring.panels";
const LEAST = 180;

function remembered() {
  try {
    return JSON.parse(localStorage.getItem(KEPT)) ?? {};
  } catch {
    return {}; // a page from a file may have no memory
  }
}

export function panels(page) {
  if (!page) return;
  const widths = remembered();
  for (const [side, way] of [["left", 1], ["right", -1]]) {
    const panel = page.querySelector(`.m-${side}`);
    if (!panel) continue;
    const set = (width) => page.style.setProperty(`--${side}`, `${Math.round(width)}px`);
    if (Number.isFinite(widths[side])) set(widths[side]);
    const edge = document.createElement("div");
    edge.className = `m-edge ${side}`;
    edge.title = "draw to make the panel wider";
    panel.append(edge);
    edge.addEventListener("pointerdown", (down) => {
      const began = panel.clientWidth;
      edge.setPointerCapture(down.pointerId);
      const move = (event) => {
        widths[side] = Math.max(LEAST, began + way * (event.clientX - down.clientX));
        set(widths[side]);
      };
      edge.addEventListener("pointermove", move);
      edge.addEventListener(
        "pointerup",
        () => {
          edge.removeEventListener("pointermove", move);
          try {
            localStorage.setItem(KEPT, JSON.stringify(widths));
          } catch {
            // it is as wide as long as the page is open
          }
        },
        { once: true },
      );
    });
  }
}
