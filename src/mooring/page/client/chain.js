// The kinematic tree, every moving joint with its slider: joints where they hang, links after them.

import { brief, doubles, shown, unitOf, usual } from "mooring-page/numbers.js";

const GLYPHS = { revolute: "◠", continuous: "○", prismatic: "↔", fixed: "▪", floating: "✥" };
const OFTEN = 33;

function make(tag, kind, text = "") {
  const element = document.createElement(tag);
  element.className = kind;
  element.textContent = text;
  return element;
}

class Chain {
  constructor(place, hub) {
    this.place = place;
    this.hub = hub;
    this.rows = new Map();
    this.units = { ...usual };
    this.frames = new Set();
    place.classList.add("m-chain");
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
    this.link(said.root, 0);
    const walk = (link, depth) => {
      for (const frame of framed.get(link) ?? []) this.frame(frame, depth);
      for (const joint of hung.get(link)) {
        this.joint(joint, depth);
        // Along a chain without branches there is no need to move in.
        walk(joint.child, hung.get(link).length > 1 ? depth + 1 : depth);
      }
    };
    walk(said.root, 0);
    if (q) this.show(q);
    this.select(this.hub.last.get("selection") ?? null);
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
  }

  joint(joint, depth) {
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
    head.append(glyph, title, child);
    row.append(head);
    const parts = { joint, row };
    if (joint.axis) this.travel(parts, head);
    this.place.append(row);
    this.rows.set(joint.name, parts);
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
      field.select();
    };
    field.onblur = () => {
      if (!parts.typing) return;
      parts.typing = false;
      const number = Number(field.value.replace(",", "."));
      if (field.value.trim() && Number.isFinite(number)) this.ask(joint, number * unit.size);
      else this.refuse({ joint: joint.name, why: `${field.value || "nothing"} is no number of ${unit.name}` });
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
    head.append(field, make("span", "m-unit", unit.name));
    row.append(line, note);
    Object.assign(parts, { field, slider, note, swing, quiet: note.textContent });
  }

  // Arrow keys go by a degree or a millimetre; with shift ten times as far.
  nudge(event, joint, unit) {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    this.ask(joint, this.q[joint.coordinate] + way * unit.nudge * unit.size * (event.shiftKey ? 10 : 1));
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
