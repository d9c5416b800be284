// Look and unit change where one stands: nothing typed is lost, and focus and place stay.
export function startInPlace(startContent) {
  document.addEventListener("submit", async (event) => {
    const form = event.target.closest("header form[data-key-form]");
    if (!form) return;
    event.preventDefault();
    try {
      await fetch(form.action, { method: "POST", body: new FormData(form, event.submitter), redirect: "manual" });
      await show(form.dataset.keyForm, startContent);
    } catch {
      form.submit();
    }
  });
}

async function show(key, startContent) {
  const main = document.getElementById("main");
  // A page that answers to what was sent cannot be asked for again, and a finder goes on with its round.
  const stays = "posted" in main.dataset || main.querySelector("#finder-plan");
  const response = await fetch(stays ? "/help" : location.href, { headers: { accept: "text/html" } });
  if (!response.ok) throw new Error(String(response.status));
  const page = new DOMParser().parseFromString(await response.text(), "text/html");
  const place = whereFocusIs();
  Object.assign(document.documentElement.dataset, page.documentElement.dataset);
  replaceBar(page);
  if (key === "u" && !stays) {
    replaceMain(main, page.getElementById("main"));
    startContent();
  }
  putFocus(place);
}

function replaceBar(page) {
  const header = document.querySelector("header");
  const [old, fresh] = [header, page.querySelector("header")].map((bar) => [...bar.querySelectorAll('input[name="back"]')]);
  const switching = header.querySelector('a[href^="/setups"]')?.getAttribute("href");
  fresh.forEach((field, index) => field.setAttribute("value", old[index]?.value ?? field.value));
  header.replaceChildren(...page.querySelector("header").childNodes);
  if (switching) header.querySelector('a[href^="/setups"]')?.setAttribute("href", switching);
}

function replaceMain(main, fresh) {
  const typed = [...main.querySelectorAll("form")].filter(isTyped).map((form) => [name(form, main), form]);
  const open = [...main.querySelectorAll("details")].map((details) => details.open);
  const scroll = [window.scrollX, window.scrollY];
  main.replaceChildren(...fresh.childNodes);
  for (const [called, form] of typed) {
    const twin = [...main.querySelectorAll("form")].find((other) => name(other, main) === called);
    twin?.replaceWith(form);
  }
  main.querySelectorAll("details").forEach((details, index) => { if (index in open) details.open = open[index]; });
  window.htmx?.process(main);
  window.scrollTo(...scroll);
}

// Forms are told apart by where they send to, and which of those they are.
function name(form, main) {
  const action = form.getAttribute("action") ?? "";
  return `${action} ${[...main.querySelectorAll("form")].filter((other) => (other.getAttribute("action") ?? "") === action).indexOf(form)}`;
}

export function isTyped(form) {
  return "typed" in form.dataset || [...form.elements].some(differs);
}

function differs(field) {
  if (field.type === "hidden" || field.tagName === "BUTTON" || field.tagName === "FIELDSET") return false;
  if (field.type === "checkbox" || field.type === "radio") return field.checked !== field.defaultChecked;
  if (field.tagName === "SELECT") {
    const first = Math.max([...field.options].findIndex((option) => option.defaultSelected), 0);
    return field.selectedIndex !== first;
  }
  return field.type === "file" ? field.files.length > 0 : field.value !== field.defaultValue;
}

function whereFocusIs() {
  const at = document.activeElement;
  if (!at || at === document.body) return null;
  const form = at.closest("header form[data-key-form]");
  const range = "selectionStart" in at && at.selectionStart !== null ? [at.selectionStart, at.selectionEnd] : null;
  return { at, range, find: form ? `header form[data-key-form="${form.dataset.keyForm}"] button` : at.id ? `#${CSS.escape(at.id)}` : "" };
}

function putFocus(place) {
  if (!place) return;
  const to = place.at.isConnected ? place.at : place.find && document.querySelector(place.find);
  if (!to || document.activeElement === to) return;
  to.focus({ preventScroll: true });
  if (place.range) to.setSelectionRange?.(...place.range);
}
