// What is seen of a round: the picture, how many frames are there, and what went wrong.
export class Screen {
  constructor(root) {
    const canvas = root.querySelector("canvas");
    Object.assign(this, { root, canvas, pen: canvas.getContext("2d"), drawn: 0 });
  }

  // Draws a picture, and over it, as strong as its share, another.
  paint(picture, over = null, share = 0) {
    const { width, height } = this.canvas;
    this.pen.drawImage(picture, 0, 0, width, height);
    if (over) {
      this.pen.globalAlpha = share;
      this.pen.drawImage(over, 0, 0, width, height);
      this.pen.globalAlpha = 1;
    }
    this.root.dataset.frames = String((this.drawn += 1));
    this.root.dataset.ready = "yes";
  }

  progress(there, all) {
    const bar = this.root.querySelector("progress");
    Object.assign(bar, { max: Math.max(all, 1), value: there, hidden: there === all });
    if (there === all) this.root.dataset.warm = "yes";
  }

  // How large the picture is shown against what is seen in the finder, where the display was measured.
  size({ steps, finder_px: widths }, step) {
    const finderPx = widths[steps.indexOf(step)];
    const words = this.root.querySelector(".finder-size");
    if (!words || !finderPx) return;
    words.textContent = `Shown at ${Math.round((100 * this.canvas.clientWidth) / finderPx)}\u00a0% of its size in the finder.`;
  }

  say(problem) {
    this.root.querySelector(".finder-problem").textContent = String(problem);
  }
}
