// Texts beside places in the view, each with a line to its place; of two that would overlap the less
// important one gives way: it moves aside, or, where there is no room, goes.

// As the reader's own letters are: 16 pixels unless he wants them larger.
const LETTERS = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16 || 1;
const LETTER = 6.6 * LETTERS;
const HEIGHT = 17 * LETTERS;
const BESIDE = 9;
const SVG = "http://www.w3.org/2000/svg";

export class Labels {
  constructor(place, stage) {
    this.stage = stage;
    this.sheet = document.createElement("div");
    this.sheet.className = "m-labels";
    place.appendChild(this.sheet);
    const drawing = document.createElementNS(SVG, "svg");
    this.lines = drawing.appendChild(document.createElementNS(SVG, "path"));
    this.sheet.appendChild(drawing);
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
    const lines = [];
    const order = [...this.all].sort((a, b) => b.weight - a.weight);
    for (const label of order) {
      const spot = label.at();
      const seen = spot && spot.clone().project(camera);
      let box = null;
      if (seen && Math.abs(seen.z) <= 1) {
        const wide = label.text.length * LETTER + 8;
        const x = ((seen.x + 1) / 2) * width;
        const y = ((1 - seen.y) / 2) * height;
        box = this.room(x, y, wide, width, taken);
        if (box) lines.push(`M${x.toFixed(1)} ${y.toFixed(1)}L${box.from.toFixed(1)} ${(box.y + HEIGHT / 2).toFixed(1)}`);
      }
      label.mark.style.display = box ? "" : "none";
      if (!box) continue;
      taken.push(box);
      label.mark.style.transform = `translate(${box.x.toFixed(1)}px, ${box.y.toFixed(1)}px)`;
    }
    this.lines.setAttribute("d", lines.join(""));
  }

  // A free place beside a point or near it: to the right before the left, where there is room.
  room(x, y, wide, width, taken) {
    for (const away of [0, 1, -1, 2, -2, 3, -3]) {
      for (const way of [1, -1]) {
        const from = x + way * (BESIDE + 3 * Math.abs(away));
        const left = way > 0 ? from : from - wide;
        const top = y - HEIGHT / 2 + away * HEIGHT;
        const box = { x: left, y: top, right: left + wide, low: top + HEIGHT, from };
        if (box.right > width || box.x < 0) continue;
        if (!taken.some((t) => t.x < box.right && box.x < t.right && t.y < box.low && box.y < t.low)) return box;
      }
    }
    return null;
  }
}
