// Prints the page; the style sheet leaves out what does not belong on paper, and what is folded up is opened for it.
export function startPrint() {
  for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());
}

export function startUnfolding() {
  let folded = [];
  window.addEventListener("beforeprint", () => {
    folded = [...document.querySelectorAll("main details:not([open])")].filter((one) => !one.querySelector("form"));
    for (const one of folded) one.open = true;
  });
  window.addEventListener("afterprint", () => { for (const one of folded) one.open = false; });
}
