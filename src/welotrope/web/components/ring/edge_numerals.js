// A numeral that the edge of a ring would cut reads as another number, so it is not shown at all.
const ROOM_PX = 2;

export class EdgeNumerals {
  constructor(svg) {
    this.svg = svg;
    this.measure();
  }

  // Widths do not change while the ring turns; they are read once, and again when the drawing's width has.
  measure() {
    this.half = this.svg.clientWidth / 2;
    this.right = this.half - (this.svg.querySelector(".unit-ground")?.width.baseVal.value ?? 0); // there the units stand
    this.numerals = [...this.svg.querySelectorAll(".strip .numeral, .strip .numeral-other, .paper-numeral")].map((node) => ({
      node, at: Number(node.getAttribute("x")), half: node.getComputedTextLength() / 2 + ROOM_PX,
    }));
  }

  draw(offset) {
    for (const { node, at, half } of this.numerals) {
      const beyond = Math.max(at + offset + half - this.right, -this.half - (at + offset - half));
      const hidden = beyond > 0 && beyond < 2 * half;
      if (node.classList.contains("cut") !== hidden) node.classList.toggle("cut", hidden);
    }
  }
}

// Rings that stand still: drawn once, and when the window changes.
export function startStillRings() {
  for (const svg of document.querySelectorAll("svg.unrolled")) {
    if (svg.id === "ring" || svg.dataset.numerals) continue;
    svg.dataset.numerals = "yes";
    const numerals = new EdgeNumerals(svg);
    const draw = () => {
      const moved = svg.querySelector(".strip")?.transform.baseVal[0]?.matrix.e ?? 0;
      numerals.measure();
      numerals.draw(moved);
    };
    draw();
    document.fonts?.ready.then(draw);
    new ResizeObserver(draw).observe(svg);
  }
}
