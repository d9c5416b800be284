// What is seen of a round: the picture, how many frames are there, and what went wrong.
export class Screen {
  constructor(root) {
    const canvas = root.querySelector("canvas");
    Object.assign(this, { root, canvas, pen: canvas.getContext("2d"), drawn: 0 });
  }

  paint(picture) {
    this.pen.drawImage(picture, 0, 0, this.canvas.width, this.canvas.height);
    this.root.dataset.frames = String((this.drawn += 1));
    this.root.dataset.ready = "yes";
  }

  progress(there, all) {
    const bar = this.root.querySelector("progress");
    Object.assign(bar, { max: Math.max(all, 1), value: there, hidden: there === all });
    if (there === all) this.root.dataset.warm = "yes";
  }

  say(problem) {
    this.root.querySelector(".finder-problem").textContent = String(problem);
  }
}
