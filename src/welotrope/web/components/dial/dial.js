// A slider shows the panel it stands at; everything it shows came with the page.
export function startDials() {
  for (const dial of document.querySelectorAll("[data-dial]")) {
    const input = dial.querySelector("[data-dial-input]");
    const panels = [...dial.querySelectorAll("[data-dial-panel]")];
    const texts = input.dataset.texts.split(" ");
    input.addEventListener("input", () => {
      for (const panel of panels) panel.hidden = panel.dataset.dialPanel !== input.value;
      input.setAttribute("aria-valuetext", texts[Number(input.value)]);
    });
  }
}
