// What an address carries from page to page: which set-up this tab holds in hand and, in the rooms, ring and aim.
export const HAND = ["setup", "zoom"];
export const AIM = ["lines", "detail", "light", "place", "moving", "tripod", "view"];
const CARRIED = ["at", "stop", "subject", ...AIM, ...HAND];

// Each tab holds its own set-up: every address and form of it says which, so that two tabs never fight.
export function withHand(path) {
  const url = new URL(path, location.href);
  if (url.origin !== location.origin) return path;
  const held = document.documentElement.dataset;
  for (const name of HAND) {
    if (held[name] && !url.searchParams.has(name)) url.searchParams.set(name, held[name]);
  }
  return url.pathname + url.search + url.hash;
}

function startHand() {
  if (!document.documentElement.dataset.setup) return;
  hold();
  for (const kind of ["pointerdown", "focusin", "click"]) {
    document.addEventListener(kind, (event) => {
      const link = event.target.closest?.("a[href]");
      if (link && !link.getAttribute("href").startsWith("#")) link.href = withHand(link.href);
    }, true);
  }
  document.addEventListener("submit", (event) => sayHand(event.target, event.submitter), true);
  document.addEventListener("htmx:configRequest", (event) => { event.detail.path = withHand(event.detail.path); });
}

function hold() {
  const url = new URL(location.href);
  for (const name of HAND) {
    const value = document.documentElement.dataset[name];
    if (value) url.searchParams.set(name, value);
    else url.searchParams.delete(name);
  }
  if (url.href !== location.href) history.replaceState(history.state, "", url.href);
}

// A form that asks by its address says it in fields, any other in the address it is sent to.
function sayHand(form, submitter) {
  const sender = submitter?.hasAttribute("formaction") ? submitter : form;
  const at = sender === form ? "action" : "formaction";
  if ((submitter?.getAttribute("formmethod") ?? form.method) !== "get") {
    sender.setAttribute(at, withHand(sender.getAttribute(at) || location.href));
    return;
  }
  for (const name of HAND) {
    const value = document.documentElement.dataset[name];
    if (!value || form.elements.namedItem(name)) continue;
    const field = document.createElement("input");
    Object.assign(field, { type: "hidden", name, value });
    form.append(field);
  }
}

export function startCarry() {
  startHand();
  document.addEventListener("htmx:pushedIntoHistory", () => {
    const pairs = [...new URLSearchParams(location.search)].filter(([name]) => CARRIED.includes(name));
    const query = new URLSearchParams(pairs).toString();
    for (const link of document.querySelectorAll("[data-room]")) link.href = `${new URL(link.href).pathname}?${query}`;
    for (const field of document.querySelectorAll('header input[name="back"]')) field.value = location.pathname + location.search;
  });
}
