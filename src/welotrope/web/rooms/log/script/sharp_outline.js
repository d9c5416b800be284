// What the map says, drawn over the picture: the outline of what is sharp, the sharpest places, the spot that was meant.
const SVG = "http://www.w3.org/2000/svg";

export function drawMap(overlay, map) {
  if (!map.rows) return;
  overlay.setAttribute("viewBox", `0 0 ${map.width} ${map.height}`);
  const side = map.cell;
  const on = (row, col) => Boolean(map.sharp[row]?.[col]);
  let path = "";
  for (let row = 0; row < map.rows; row += 1) {
    for (let col = 0; col < map.cols; col += 1) {
      if (!on(row, col)) continue;
      const [x, y] = [col * side, row * side];
      if (!on(row - 1, col)) path += `M${x} ${y}h${side}`;
      if (!on(row + 1, col)) path += `M${x} ${y + side}h${side}`;
      if (!on(row, col - 1)) path += `M${x} ${y}v${side}`;
      if (!on(row, col + 1)) path += `M${x + side} ${y}v${side}`;
    }
  }
  add(overlay, "path", { d: path, class: "edge" });
  map.places.forEach((place, index) => {
    const name = "ABC"[index];
    const at = { x: place.x * map.width, y: place.y * map.height };
    add(overlay, "circle", { cx: at.x, cy: at.y, r: side * 0.7, class: "sharpest" });
    add(overlay, "text", { x: at.x + side, y: at.y + side / 2, class: "name", "font-size": side * 1.5 }).textContent = name;
  });
}

export function drawSpot(overlay, map, x, y) {
  overlay.querySelector(".spot")?.remove();
  const width = map.width ?? overlay.closest(".pane").dataset.width;
  const height = map.height ?? overlay.closest(".pane").dataset.height;
  overlay.setAttribute("viewBox", `0 0 ${width} ${height}`);
  const size = width / 60;
  const [cx, cy] = [x * width, y * height];
  add(overlay, "path", {
    d: `M${cx - size} ${cy}h${size * 0.7}M${cx + size * 0.3} ${cy}h${size * 0.7}M${cx} ${cy - size}v${size * 0.7}M${cx} ${cy + size * 0.3}v${size * 0.7}`,
    class: "spot",
  });
}

function add(parent, name, attributes) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  parent.append(made);
  return made;
}
