// A picture dragged onto a frame of the timeline: the pair puts the clock right.
export function startTimeline() {
  const svg = document.getElementById("timeline");
  const form = document.getElementById("pair");
  let held = null;
  const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
  line.setAttribute("class", "pulled");
  svg.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest("[data-picture]");
    if (!mark) return;
    event.preventDefault();
    held = mark;
    const from = point(svg, event);
    for (const [name, value] of [["x1", from.x], ["y1", from.y], ["x2", from.x], ["y2", from.y]]) line.setAttribute(name, value);
    svg.append(line);
    svg.setPointerCapture(event.pointerId);
  });
  svg.addEventListener("pointermove", (event) => {
    if (!held) return;
    const to = point(svg, event);
    line.setAttribute("x2", to.x);
    line.setAttribute("y2", to.y);
  });
  svg.addEventListener("pointerup", (event) => {
    if (!held) return;
    const picture = held.dataset.picture;
    held = null;
    line.remove();
    const frame = nearestFrame(svg, event);
    if (!frame) return;
    form.elements.picture.value = picture;
    form.elements.frame.value = frame.dataset.frame;
    form.requestSubmit();
  });
}

function point(svg, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

function nearestFrame(svg, event) {
  const reach = 24;
  let best = null;
  let least = reach;
  for (const mark of svg.querySelectorAll("[data-frame]")) {
    const box = mark.getBoundingClientRect();
    const away = Math.hypot(event.clientX - (box.left + box.right) / 2, event.clientY - (box.top + box.bottom) / 2);
    if (away < least) [best, least] = [mark, away];
  }
  return best;
}
