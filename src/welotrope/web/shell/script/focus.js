// Where focus goes: to the first error of a form that was refused, and from a frame that was marked to the next.
const ERRORS = '[aria-invalid="true"]';

export function startFocus() {
  const main = document.getElementById("main");
  if ("posted" in main.dataset || main.querySelector(ERRORS)) toError(main);
  document.addEventListener("htmx:afterSettle", (event) => {
    const part = event.detail.elt;
    // Rows that came by scrolling take no focus away.
    const marked = event.detail.requestConfig?.verb === "post";
    if (marked && part.matches?.(".frame-row")) toNextFrame(part);
    else if (part.querySelector?.(ERRORS)) toError(part);
  });
}

function toError(part) {
  const found = part.querySelector(ERRORS) ?? part.querySelector(".problem[role=alert]");
  if (!found) return;
  if (!found.matches("input, select, textarea")) found.tabIndex = -1;
  found.focus();
}

function toNextFrame(row) {
  const marked = row.querySelector('.marks [aria-pressed="true"]');
  const next = marked ? row.nextElementSibling?.querySelector(".marks button") : null;
  (next ?? row.querySelector(".marks button"))?.focus();
}
