// Prints the page; the style sheet leaves out what does not belong on paper.
export function startPrint() {
  for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());
}
