// What the page's modules build.

export function make(tag, kind = "", text = "") {
  const element = document.createElement(tag);
  element.className = kind;
  element.textContent = text;
  return element;
}
