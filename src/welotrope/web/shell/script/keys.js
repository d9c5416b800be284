// The keys of the help page; none acts while a field is being filled in.
import { turned } from "../../components/ring/strip.js";

const typing = (target) => target.closest("input, textarea, select, [contenteditable]");

export function startKeys() {
  // Ctrl+Enter sends the form one types into, by the button that says so.
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey)) return;
    event.target.form?.querySelector("[data-send-with=Enter]")?.click();
  });
  document.addEventListener("keydown", (event) => {
    if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    if (document.querySelector("dialog[open]")) return;
    if (act(event)) event.preventDefault();
  });
}

function act(event) {
  const link = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (link) return (link.matches("input") ? link.focus() : link.click()) ?? true;
  const form = document.querySelector(`[data-key-form="${CSS.escape(event.key)}"]`);
  if (form) return form.querySelector("button").click() ?? true;
  if (!document.getElementById("ring-data")) return false;
  return ringKey(event);
}

function ringKey(event) {
  const send = (name, detail) => window.dispatchEvent(new CustomEvent(name, { detail })) || true;
  if (event.key === "[") return send("welotrope:stop", -1); // left in the row of stops: open up
  if (event.key === "]") return send("welotrope:stop", 1); // right: stop down
  if (event.key === "0") return send("welotrope:turn", ({ table, stopIndex }) => table.setting(Infinity, stopIndex));
  if (event.target.closest("a, button, summary, .peg")) return false;
  if (!event.key.startsWith("Arrow") || event.key === "ArrowUp" || event.key === "ArrowDown") return false;
  const direction = Number(document.getElementById("ring").dataset.direction);
  return send("welotrope:turn", (state) => turned(event, state, direction));
}
