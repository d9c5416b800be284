// The review: pan, zoom, outline, pictures side by side, the spot that was meant, and the next picture ready.
import { drawMap, drawSpot } from "./sharp_outline.js";
import { loaded, prepareNext } from "./next_picture.js";
import { Viewer } from "./viewer.js";

export function startReview(review = document.getElementById("review"), whole = null) {
  const stage = document.getElementById("stage");
  const viewer = new Viewer(stage);
  const main = viewer.panes.find((pane) => !pane.classList.contains("other"));
  for (const pane of viewer.panes) pane.hidden = pane !== main;
  const map = JSON.parse(document.getElementById("map-data").textContent);
  drawMap(main.querySelector(".overlay"), map);
  const form = document.getElementById("verdict");
  if (form?.elements.x.value) drawSpot(main.querySelector(".overlay"), map, form.elements.x.value, form.elements.y.value);
  viewer.draw();
  new ResizeObserver(() => viewer.draw()).observe(stage);
  startPointers(stage, viewer, (place) => markSpot(review, main, map, form, place));
  startButtons(review, stage, viewer, main);
  startKeysOf(stage, viewer);
  review.dataset.ready = "yes";
  makeReady(review, main, whole);
}

function startButtons(review, stage, viewer, main) {
  const doing = {
    closer: () => {
      const box = main.getBoundingClientRect();
      const spot = document.querySelector("#verdict [name=x]")?.value;
      if (viewer.zoom === null && spot) viewer.centre = { x: Number(spot), y: Number(document.querySelector("#verdict [name=y]").value) };
      if (viewer.zoom === null) {
        viewer.zoom = 1 / devicePixelRatio;
        viewer.draw();
      } else viewer.zoomTo(0, main, box.left, box.top);
    },
    outline: (button) => press(button, stage.classList.toggle("bare") === false),
    beside: (button) => {
      const many = button.getAttribute("aria-pressed") !== "true";
      for (const pane of viewer.panes) pane.hidden = !many && pane !== main;
      stage.classList.toggle("many", many);
      press(button, many);
      viewer.draw();
    },
  };
  stage.addEventListener("click", (event) => {
    const button = event.target.closest("[data-do]");
    if (button) doing[button.dataset.do](button);
  });
}

const press = (button, on) => button.setAttribute("aria-pressed", String(on));

function startPointers(stage, viewer, mark) {
  const down = new Map();
  let moved = 0;
  let apart = 0;
  const pane = (event) => event.target.closest?.(".pane") ?? viewer.shown()[0];
  stage.addEventListener("pointerdown", (event) => {
    if (event.target.closest(".stage-tools")) return;
    stage.setPointerCapture(event.pointerId);
    down.set(event.pointerId, { x: event.clientX, y: event.clientY, pane: pane(event) });
    moved = down.size > 1 ? 99 : 0;
    apart = spread(down);
  });
  stage.addEventListener("pointermove", (event) => {
    const held = down.get(event.pointerId);
    if (!held) return;
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    moved += Math.abs(dx) + Math.abs(dy);
    Object.assign(held, { x: event.clientX, y: event.clientY });
    if (down.size === 2) {
      const now = spread(down);
      viewer.zoomTo((viewer.scale(held.pane) * now) / (apart || now), held.pane, event.clientX, event.clientY);
      apart = now;
    } else if (moved > 4) viewer.moveBy(held.pane, dx, dy);
  });
  const up = (event) => {
    const held = down.get(event.pointerId);
    down.delete(event.pointerId);
    if (held && event.type === "pointerup" && moved <= 4 && !held.pane.classList.contains("other")) {
      mark(viewer.place(held.pane, event.clientX, event.clientY));
    }
  };
  stage.addEventListener("pointerup", up);
  stage.addEventListener("pointercancel", up);
  stage.addEventListener("wheel", (event) => {
    event.preventDefault();
    const at = pane(event);
    viewer.zoomTo(viewer.scale(at) * Math.exp(-event.deltaY / 400), at, event.clientX, event.clientY);
  }, { passive: false });
}

function spread(down) {
  const [a, b] = [...down.values()];
  return b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
}

function startKeysOf(stage, viewer) {
  const step = 60;
  const ways = { ArrowLeft: [step, 0], ArrowRight: [-step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] };
  stage.addEventListener("keydown", (event) => {
    const pane = viewer.shown()[0];
    const box = pane.getBoundingClientRect();
    const middle = [box.left + box.width / 2, box.top + box.height / 2];
    if (ways[event.key]) viewer.moveBy(pane, ...ways[event.key]);
    else if (event.key === "+") viewer.zoomTo(viewer.scale(pane) * 1.4, pane, ...middle);
    else if (event.key === "-") viewer.zoomTo(viewer.scale(pane) / 1.4, pane, ...middle);
    else return;
    event.preventDefault();
  });
}

async function markSpot(review, main, map, form, place) {
  if (!(place.x >= 0 && place.x <= 1 && place.y >= 0 && place.y <= 1)) return;
  drawSpot(main.querySelector(".overlay"), map, place.x, place.y);
  if (form) [form.elements.x.value, form.elements.y.value] = [place.x.toFixed(4), place.y.toFixed(4)];
  const query = new URLSearchParams({ picture: main.dataset.id, x: place.x.toFixed(4), y: place.y.toFixed(4) });
  const answer = await fetch(`/log/review?${query}`, { headers: { "hx-request": "true" } });
  if (answer.ok) document.getElementById("side").innerHTML = await answer.text();
}

// The picture itself takes the preview's place when it is there.
async function makeReady(review, main, whole) {
  const { full } = review.dataset;
  if (full) {
    const image = whole ?? loaded(full);
    await image.decode().catch(() => {});
    if (image.naturalWidth) {
      const shown = main.querySelector("img");
      image.alt = shown.alt;
      image.draggable = false;
      image.style.cssText = shown.style.cssText;
      shown.replaceWith(image);
      review.dataset.sharp = "yes";
    }
  }
  prepareNext(review, (next, image) => startReview(next, image));
}
