// The frame that is made as large as a card: it follows its slider.
export function startCard() {
  const slider = document.getElementById("card_px");
  const frame = document.querySelector(".card-frame");
  slider.addEventListener("input", () => {
    frame.setAttribute("height", slider.value);
    frame.setAttribute("width", (slider.value * slider.dataset.high).toFixed(1));
  });
}
