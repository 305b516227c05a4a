// Numbers as they travel, and as people read them.

function bytes(text) {
  const raw = atob(text);
  const found = new Uint8Array(raw.length);
  for (let k = 0; k < raw.length; k++) found[k] = raw.charCodeAt(k);
  return found.buffer;
}

// Packed, or numbers already.
export const floats = (said) => (typeof said === "string" ? new Float32Array(bytes(said)) : said);
export const doubles = (said) => (typeof said === "string" ? new Float64Array(bytes(said)) : said);
export { bytes };

const UNITS = {
  deg: { size: Math.PI / 180, digits: 2, nudge: 1 },
  rad: { size: 1, digits: 4, nudge: 0.01 },
  mm: { size: 1e-3, digits: 1, nudge: 1 },
  m: { size: 1, digits: 4, nudge: 1e-3 },
};

// Which units a window shows: { rotation: "deg" | "rad", translation: "mm" | "m" }.
export const usual = { rotation: "deg", translation: "mm" };

export function unitOf(motion, units) {
  const name = units[motion];
  return { name, ...UNITS[name] };
}

export function shown(value, motion, units) {
  const unit = unitOf(motion, units);
  const text = (value / unit.size).toFixed(unit.digits);
  return Number(text) === 0 ? (0).toFixed(unit.digits) : text;
}

export function brief(value, motion, units) {
  const unit = unitOf(motion, units);
  return `${Number((value / unit.size).toPrecision(4))}`;
}

const QUANTITY = /^([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(\S*)$/;

// What one types where there is no server to read it; { value } in SI, or { why } it is none.
export function typed(text, motion, usually) {
  const said = text.trim();
  const [, digits, sign] = said.match(QUANTITY) ?? [];
  const name = sign || usually;
  const fits = (motion === "rotation" ? ["deg", "rad"] : ["mm", "m"]).includes(name);
  const value = fits ? Number(digits) * UNITS[name].size : NaN;
  if (Number.isFinite(value)) return { value };
  if (said.includes(",")) return { why: `${said} could mean two things; write it with a point, without commas` };
  if (said.startsWith("=")) return { why: "a page by itself knows no named values" };
  return { why: `${said || "nothing"} is no number of ${usually}` };
}
