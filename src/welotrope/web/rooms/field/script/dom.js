// Makes elements: h("button", { class: "x", onclick: f }, "text", child).
export function h(tag, given = {}, ...children) {
  const made = document.createElement(tag);
  fill(made, given, children);
  return made;
}

const SVG = "http://www.w3.org/2000/svg";
export function s(tag, given = {}, ...children) {
  const made = document.createElementNS(SVG, tag);
  fill(made, given, children);
  return made;
}

function fill(made, given, children) {
  for (const [name, value] of Object.entries(given)) {
    if (value === false || value === null || value === undefined) continue;
    if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
    else made.setAttribute(name, value === true ? "" : value);
  }
  made.append(...children.flat().filter((child) => child !== null && child !== undefined && child !== false));
}
