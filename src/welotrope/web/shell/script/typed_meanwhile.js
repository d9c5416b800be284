// What is typed while an answer is under way stays when the answer draws the form anew, and is asked about in its turn.
export function startTypedMeanwhile() {
  const sent = new WeakMap(); // by request: two may be under way
  let later = [];
  document.addEventListener("htmx:beforeRequest", (event) => {
    sent.set(event.detail.xhr, new Map(fields().map(({ key, field }) => [key, valueOf(field)])));
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    const then = sent.get(event.detail.xhr) ?? new Map();
    const inside = fields().filter(({ field }) => event.detail.target.contains(field));
    later = inside.filter(({ key, field }) => then.has(key) && then.get(key) !== valueOf(field))
      .map(({ key, field }) => ({ key, value: valueOf(field), held: field === document.activeElement }));
  });
  document.addEventListener("htmx:afterSettle", () => {
    const fresh = new Map(fields().map(({ key, field }) => [key, field]));
    for (const { key, value, held } of later) {
      const field = fresh.get(key);
      if (!field) continue;
      if (isTick(field)) field.checked = value;
      else field.value = value;
      if (held) field.focus({ preventScroll: true });
    }
    const last = later.findLast(({ key, held }) => fresh.has(key) && !(held && isTypedInto(fresh.get(key))));
    later = [];
    if (last) fresh.get(last.key).dispatchEvent(new Event("change", { bubbles: true }));
  });
}

const isTick = (field) => field.type === "checkbox" || field.type === "radio";
const isTypedInto = (field) => field.tagName === "TEXTAREA" || (field.tagName === "INPUT" && !isTick(field));
const valueOf = (field) => (isTick(field) ? field.checked : field.value);

// Fields are told apart by their form, their name, and which of that name they are.
function fields() {
  const counts = new Map();
  return [...document.querySelectorAll("main form [name]:not([type=hidden], button)")].map((field) => {
    const named = `${field.form?.getAttribute("action") ?? ""} ${field.name}`;
    counts.set(named, (counts.get(named) ?? 0) + 1);
    return { key: `${named} ${counts.get(named)}`, field };
  });
}
