// Opens a page's main part in a dialog; without script the same links open the page itself.
export function startDialog() {
  const dialog = document.getElementById("dialog");
  if (!dialog) return;
  document.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-dialog]");
    if (!link || event.ctrlKey || event.metaKey || !window.htmx) return;
    event.preventDefault();
    open(dialog, link.href);
  });
  dialog.addEventListener("click", (event) => {
    if (event.target === dialog || event.target.closest("[data-close]")) {
      event.preventDefault();
      dialog.close();
    }
  });
}

async function open(dialog, href) {
  const response = await fetch(href, { headers: { accept: "text/html" } });
  const page = new DOMParser().parseFromString(await response.text(), "text/html");
  for (const first of page.querySelectorAll("#main h1")) { // the page below has its own
    const second = page.createElement("h2");
    second.append(...first.childNodes);
    first.replaceWith(second);
  }
  dialog.replaceChildren(...page.getElementById("main").childNodes);
  window.htmx.process(dialog);
  dialog.showModal();
  (dialog.querySelector("[autofocus]") ?? dialog.querySelector("input:not([type=hidden]), button, a"))?.focus();
}
