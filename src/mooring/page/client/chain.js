// The kinematic tree, every moving joint with its slider: joints where they hang, links after them.

import { make } from "mooring-page/elements.js";
import { brief, doubles, shown, unitOf, usual } from "mooring-page/numbers.js";

const GLYPHS = { revolute: "◠", continuous: "○", prismatic: "↔", fixed: "▪", floating: "✥" };
const OFTEN = 33;
// So many moving joints, and sliders show at the one that is looked at; fewer joints need no filter;
// more things that stand still are told together.
const MANY = 24;
const FEW = 9;
const MOST_STILL = 2;
// So many joints below one are folded away, also where nothing branches.
const LONG = 12;
// What was asked for so short a time ago is on its way [ms].
const ON_ITS_WAY = 600;

class Chain {
  constructor(place, hub) {
    this.place = place;
    this.hub = hub;
    this.rows = new Map();
    this.units = { ...usual };
    this.frames = new Set();
    this.folded = new Set();
    this.met = new Set();
    this.wanted = "";
    place.classList.add("m-chain");
    this.filter = make("input", "m-filter");
    this.filter.placeholder = "find a joint or link";
    this.filter.setAttribute("aria-label", "find a joint or link");
    this.filter.oninput = () => {
      this.wanted = this.filter.value.trim().toLowerCase();
      this.arrange();
    };
    place.before(this.filter);
    hub.on("units", (units) => {
      this.units = { ...usual, ...units };
      if (this.said) this.build(this.said);
    });
    hub.on("model", (news) => this.build(news.structure, doubles(news.frame.q)));
    hub.on("frame", (news) => news.q && this.show(doubles(news.q)));
    hub.on("selection", (chosen) => this.select(chosen));
    hub.on("refused", (news) => this.refuse(news));
    hub.on("swing", (joint) => this.swing(joint));
  }

  build(said, q = this.q) {
    this.said = said;
    this.rows.clear();
    this.place.replaceChildren();
    const hung = new Map(said.links.map((link) => [link.name, []]));
    for (const joint of said.joints) hung.get(joint.parent).push(joint);
    const framed = new Map();
    for (const frame of said.frames) framed.set(frame.link, [...(framed.get(frame.link) ?? []), frame]);
    this.items = [];
    this.link(said.root, 0);
    const walk = (link, depth, above) => {
      for (const frame of framed.get(link) ?? []) this.keep(this.frame(frame, depth), above, frame.name, link);
      const children = hung.get(link);
      const still = link === said.root ? children.filter((joint) => !this.moves(joint, hung)) : [];
      // What stands about, as in a scene, is told together.
      const together = still.length > MOST_STILL ? still : [];
      const each = (joint, deep, over) => {
        const size = this.below(joint.child, hung);
        const below = size > LONG || (children.length > 1 && (size || framed.has(joint.child)));
        this.keep(this.joint(joint, deep, below), over, joint.name, joint.child);
        // Along a chain without branches there is no need to move in.
        walk(joint.child, children.length > 1 ? deep + 1 : deep, [...over, joint.name]);
      };
      for (const joint of children) if (!together.includes(joint)) each(joint, depth, above);
      if (!together.length) return;
      const name = `${together.length} that stand still`;
      if (!this.met.has(name)) this.folded.add(name);
      this.met.add(name);
      this.keep(this.group(name, depth), above, name, "");
      for (const joint of together) each(joint, depth + 1, [...above, name]);
    };
    walk(said.root, 0, []);
    this.place.classList.toggle("many", said.joints.filter((joint) => joint.axis).length > MANY);
    this.filter.style.display = said.joints.length > FEW ? "" : "none";
    this.arrange();
    if (q) this.show(q);
    this.select(this.hub.last.get("selection") ?? null);
  }

  // Whether a joint, or one below it, moves.
  moves(joint, hung) {
    return !!joint.axis || joint.type === "floating" || hung.get(joint.child).some((other) => this.moves(other, hung));
  }

  // How many joints hang on a link.
  below(link, hung) {
    return hung.get(link).reduce((sum, joint) => sum + 1 + this.below(joint.child, hung), 0);
  }

  keep(row, above, name, link) {
    this.items.push({ row, above, said: `${name} ${link}`.toLowerCase(), name });
  }

  // What is folded away, or is not what is looked for, is not shown.
  arrange() {
    const found = new Set();
    if (this.wanted) {
      for (const item of this.items) if (item.said.includes(this.wanted)) [item.name, ...item.above].forEach((name) => found.add(name));
    }
    for (const { row, above, name } of this.items) {
      const away = this.wanted ? !found.has(name) : above.some((other) => this.folded.has(other));
      row.classList.toggle("away", away);
      const fold = row.querySelector(".m-fold");
      if (fold) this.sign(fold, this.folded.has(name));
    }
  }

  sign(fold, folded) {
    fold.textContent = folded ? "▸" : "▾";
    fold.setAttribute("aria-expanded", String(!folded));
  }

  fold(name) {
    const fold = make("button", "m-fold");
    fold.title = "fold what hangs on it";
    fold.setAttribute("aria-label", `fold what hangs on ${name}`);
    fold.onclick = () => {
      this.folded[this.folded.has(name) ? "delete" : "add"](name);
      this.arrange();
    };
    return fold;
  }

  group(name, depth) {
    const row = make("div", "m-row");
    row.style.marginLeft = `${10 * Math.min(depth, 8)}px`;
    const head = make("div", "m-head");
    head.append(this.fold(name), make("span", "m-link", name));
    row.append(head);
    this.place.append(row);
    return row;
  }

  link(name) {
    const row = make("div", "m-row m-root");
    const title = make("button", "m-link", name);
    title.onclick = () => this.hub.ask("select", { link: name });
    row.append(title);
    row.dataset.link = name;
    this.place.append(row);
  }

  frame(frame, depth) {
    const row = make("label", "m-row m-frame");
    row.style.marginLeft = `${10 * Math.min(depth, 8)}px`;
    const box = make("input", "");
    box.type = "checkbox";
    box.checked = this.frames.has(frame.name);
    box.onchange = () => {
      this.frames[box.checked ? "add" : "delete"](frame.name);
      this.hub.tell("layers", { ...(this.hub.last.get("layers") ?? {}), some: [...this.frames] });
    };
    row.append(box, make("span", "", `${frame.name}${frame.role === "plain" ? "" : `, ${frame.role}`} frame on ${frame.link}`));
    this.place.append(row);
    return row;
  }

  joint(joint, depth, below) {
    const row = make("div", "m-row");
    row.style.marginLeft = `${10 * Math.min(depth, 8)}px`;
    row.dataset.joint = joint.name;
    row.dataset.link = joint.child;
    const head = make("div", "m-head");
    const glyph = make("span", "m-glyph", GLYPHS[joint.type]);
    glyph.title = joint.type;
    const title = make("button", "m-joint", joint.name);
    title.onclick = () => this.hub.ask("select", { joint: joint.name, link: joint.child });
    const child = make("button", "m-link", joint.child);
    child.onclick = () => this.hub.ask("select", { link: joint.child });
    if (below) head.append(this.fold(joint.name));
    head.append(glyph, title, child);
    row.append(head);
    const parts = { joint, row };
    if (joint.axis) this.travel(parts, head);
    this.place.append(row);
    this.rows.set(joint.name, parts);
    return row;
  }

  travel(parts, head) {
    const { joint, row } = parts;
    const unit = unitOf(joint.motion, this.units);
    const field = make("input", "m-field");
    field.type = "text";
    field.inputMode = "decimal";
    field.setAttribute("aria-label", `${joint.name} in ${unit.name}`);
    field.onkeydown = (event) => {
      if (event.key === "Enter") field.blur();
      if (event.key === "Escape") {
        parts.typing = false;
        this.show(this.q);
        field.blur();
      }
    };
    field.onfocus = () => {
      parts.typing = true;
      parts.touched = false;
      field.select();
    };
    field.oninput = () => {
      parts.touched = true;
    };
    field.onblur = () => {
      if (!parts.typing) return;
      parts.typing = false;
      // What was only looked at is not asked for: it is rounded, and may have moved on.
      if (parts.touched) this.hub.ask("type", { joint: joint.name, text: field.value, unit: unit.name });
      this.show(this.q);
    };
    const free = joint.motion === "rotation" ? Math.PI : 0.5;
    const slider = make("input", "m-slider");
    Object.assign(slider, { type: "range", min: joint.lower ?? -free, max: joint.upper ?? free, step: "any" });
    slider.setAttribute("aria-label", joint.name);
    slider.oninput = () => {
      parts.sliding = true;
      this.soon(joint, Number(slider.value));
    };
    slider.onchange = () => {
      parts.sliding = false;
      this.ask(joint, Number(slider.value));
    };
    slider.onkeydown = (event) => this.nudge(event, joint, unit);
    const swing = make("button", "m-swing", "⇄");
    swing.title = `run ${joint.name} to and fro`;
    swing.onclick = () => this.hub.ask("swing", { joint: swing.classList.contains("on") ? null : joint.name });
    const ends = [joint.lower, joint.upper].map((end) => (end === null ? "free" : brief(end, joint.motion, this.units)));
    const line = make("div", "m-travel");
    line.append(make("span", "m-end", ends[0]), slider, make("span", "m-end", ends[1]), swing);
    const note = make("div", "m-note", joint.follows ? `follows ${joint.follows}` : joint.looped ? "in a loop" : "");
    note.setAttribute("role", "status");
    head.append(field, make("span", "m-unit", unit.name));
    row.append(line, note);
    Object.assign(parts, { field, slider, note, swing, quiet: note.textContent });
  }

  // Arrow keys go by a degree or a millimetre; with shift ten times as far.
  nudge(event, joint, unit) {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    // A key that is held down adds to what was last asked for, which may not have been shown yet.
    const asked = this.asked?.joint === joint.name && performance.now() - this.asked.at < ON_ITS_WAY;
    const from = asked ? this.asked.value : this.q[joint.coordinate];
    const to = from + way * unit.nudge * unit.size * (event.shiftKey ? 10 : 1);
    this.ask(joint, Math.min(Math.max(to, joint.lower ?? -Infinity), joint.upper ?? Infinity));
  }

  // While a slider is dragged, no more often than pictures are drawn; the last value is never lost.
  soon(joint, value) {
    this.next = { joint, value };
    if (this.timer) return;
    this.timer = setTimeout(() => {
      this.timer = null;
      if (this.next) this.ask(this.next.joint, this.next.value);
    }, OFTEN);
  }

  ask(joint, value) {
    this.next = null;
    this.asked = { joint: joint.name, value, at: performance.now() };
    this.hub.ask("jog", { joint: joint.name, value });
  }

  show(q) {
    this.q = q;
    for (const parts of this.rows.values()) {
      const { joint, field, slider } = parts;
      if (!field) continue;
      const value = q[joint.coordinate];
      const text = shown(value, joint.motion, this.units);
      if (!parts.typing && field.value !== text) field.value = text;
      // What turns without end is shown within one turn.
      const turns = joint.type === "continuous" ? Math.round(value / (2 * Math.PI)) : 0;
      if (!parts.sliding) slider.value = value - 2 * Math.PI * turns;
    }
  }

  select(chosen) {
    for (const row of this.place.children) {
      const joint = chosen?.joint ? row.dataset.joint === chosen.joint : false;
      const link = !!chosen?.link && row.dataset.link === chosen.link;
      row.classList.toggle("chosen", joint || link);
      if ((joint || link) && chosen.scroll !== false) row.scrollIntoView({ block: "nearest" });
    }
  }

  refuse({ joint, why }) {
    for (const [name, { row, note, quiet }] of this.rows) {
      if (!note) continue;
      const mine = !!why && name === joint;
      row.classList.toggle("refused", mine);
      note.textContent = mine ? why : quiet;
    }
  }

  swing(joint) {
    for (const [name, { swing }] of this.rows) swing?.classList.toggle("on", name === joint);
  }
}

export function mount(place, hub) {
  return new Chain(place, hub);
}
