// Texts beside places in the view; of two that would overlap the less important one gives way.

const LETTER = 6.6;
const HEIGHT = 17;

export class Labels {
  constructor(place, stage) {
    this.stage = stage;
    this.sheet = document.createElement("div");
    this.sheet.className = "m-labels";
    place.appendChild(this.sheet);
    this.all = new Set();
  }

  // `at` is called for the place (a vector) at every drawing; null hides it.
  add(text, at, { weight = 0, kind = "" } = {}) {
    const mark = document.createElement("span");
    mark.className = `m-label ${kind}`;
    mark.textContent = text;
    this.sheet.appendChild(mark);
    const label = { mark, at, weight, text };
    this.all.add(label);
    return label;
  }

  remove(label) {
    label.mark.remove();
    this.all.delete(label);
  }

  place(camera) {
    const { clientWidth: width, clientHeight: height } = this.sheet;
    const taken = [];
    const order = [...this.all].sort((a, b) => b.weight - a.weight);
    for (const label of order) {
      const spot = label.at();
      const seen = spot && spot.clone().project(camera);
      let box = null;
      if (seen && Math.abs(seen.z) <= 1) {
        const wide = label.text.length * LETTER + 8;
        const right = ((seen.x + 1) / 2) * width + 9;
        // Beside the right edge there is more room on the left.
        const x = right + wide > width ? right - 18 - wide : right;
        const y = ((1 - seen.y) / 2) * height - HEIGHT / 2;
        box = this.room(x, y, wide, taken);
      }
      label.mark.style.display = box ? "" : "none";
      if (!box) continue;
      taken.push(box);
      label.mark.style.transform = `translate(${box.x.toFixed(1)}px, ${box.y.toFixed(1)}px)`;
    }
  }

  // A free place at or near the one wanted.
  room(x, y, wide, taken) {
    for (const shift of [0, -HEIGHT, HEIGHT, -2 * HEIGHT, 2 * HEIGHT]) {
      const box = { x, y: y + shift, right: x + wide, low: y + shift + HEIGHT };
      if (!taken.some((t) => t.x < box.right && box.x < t.right && t.y < box.low && box.y < t.low)) return box;
    }
    return null;
  }
}
