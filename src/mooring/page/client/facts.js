// What is known of what is chosen, in tables; what is underlined can be typed over.

import { make } from "mooring-page/elements.js";

class Facts {
  constructor(place, hub) {
    this.place = place;
    this.hub = hub;
    // What is half typed outlives new tables, by the path of its value.
    this.half = new Map();
    place.classList.add("m-facts");
    hub.on("facts", (news) => this.build(news));
  }

  build({ hint, tables, settled }) {
    for (const path of settled) this.half.delete(path);
    const at = document.activeElement;
    const typing = this.place.contains(at) ? { path: at.dataset.path, from: at.selectionStart, to: at.selectionEnd } : null;
    this.place.replaceChildren();
    if (hint) this.place.append(make("div", "", hint));
    for (const { title, rows } of tables) {
      this.place.append(make("div", "m-heading", title));
      const table = make("table", "m-table");
      for (const row of rows) table.append(this.row(row));
      this.place.append(table);
    }
    const field = typing?.path && [...this.place.querySelectorAll("input")].find((one) => one.dataset.path === typing.path);
    if (!field) return;
    field.focus();
    field.setSelectionRange(typing.from, typing.to);
  }

  row(said) {
    const row = make("tr");
    row.append(make("td", "", said.name));
    const cell = make("td");
    if (said.shown === null) cell.append(make("span", "", said.value));
    else cell.append(this.field(said));
    if (said.deed) cell.append(this.deed(said));
    row.append(cell);
    return row;
  }

  field({ name, path, shown, value, hint }) {
    const field = make("input", "m-edit");
    field.value = this.half.get(path) ?? shown;
    field.placeholder = value;
    field.title = hint;
    field.spellcheck = false;
    field.dataset.path = path;
    field.setAttribute("aria-label", name);
    field.oninput = () => {
      if (field.value === shown) this.half.delete(path);
      else this.half.set(path, field.value);
    };
    field.onkeydown = (event) => {
      if (event.key === "Enter") this.hub.ask("change", { path, value: field.value });
      if (event.key !== "Escape") return;
      this.half.delete(path);
      field.value = shown;
    };
    return field;
  }

  deed({ path, deed, why }) {
    const button = make("button", "m-deed", deed);
    button.title = why;
    button.onclick = () => this.hub.ask("place", { path });
    return button;
  }
}

export function mount(place, hub) {
  return new Facts(place, hub);
}
