// Pictures moved and scaled together: the place under the pointer stays under it.
const MOST = 4;

export class Viewer {
  constructor(stage) {
    this.stage = stage;
    this.panes = [...stage.querySelectorAll(".pane")];
    this.centre = { x: 0.5, y: 0.5 }; // of the picture, in the middle of each pane
    this.zoom = null; // screen pixels for a picture's; null fits it in
  }

  shown() {
    return this.panes.filter((pane) => !pane.hidden);
  }

  fit(pane) {
    const { clientWidth, clientHeight } = pane;
    return Math.min(clientWidth / pane.dataset.width, clientHeight / pane.dataset.height);
  }

  scale(pane) {
    // Panes of other sizes show as much of their frame.
    const main = this.shown()[0] ?? pane;
    return this.zoom === null ? this.fit(pane) : (this.zoom * main.dataset.width) / pane.dataset.width;
  }

  draw() {
    for (const pane of this.shown()) {
      const scale = this.scale(pane);
      const x = pane.clientWidth / 2 - this.centre.x * pane.dataset.width * scale;
      const y = pane.clientHeight / 2 - this.centre.y * pane.dataset.height * scale;
      for (const layer of pane.querySelectorAll("img, .overlay")) {
        layer.style.width = `${pane.dataset.width * scale}px`;
        layer.style.height = `${pane.dataset.height * scale}px`;
        layer.style.transform = `translate(${x}px, ${y}px)`;
      }
      pane.classList.toggle("fine", scale >= 2);
    }
    this.stage.dataset.zoom = this.zoom === null ? "fit" : String(this.zoom);
  }

  // The place of the picture under a point of the screen, as fractions.
  place(pane, clientX, clientY) {
    const box = pane.getBoundingClientRect();
    const scale = this.scale(pane);
    return {
      x: this.centre.x + (clientX - box.left - box.width / 2) / scale / pane.dataset.width,
      y: this.centre.y + (clientY - box.top - box.height / 2) / scale / pane.dataset.height,
    };
  }

  moveBy(pane, dx, dy) {
    const scale = this.scale(pane);
    this.centre.x = held(this.centre.x - dx / scale / pane.dataset.width);
    this.centre.y = held(this.centre.y - dy / scale / pane.dataset.height);
    this.draw();
  }

  zoomTo(zoom, pane, clientX, clientY) {
    const under = this.place(pane, clientX, clientY);
    const least = this.fit(pane);
    this.zoom = zoom <= least * 1.02 ? null : Math.min(zoom, MOST);
    if (this.zoom === null) this.centre = { x: 0.5, y: 0.5 };
    else {
      const now = this.place(pane, clientX, clientY);
      this.centre = { x: held(this.centre.x + under.x - now.x), y: held(this.centre.y + under.y - now.y) };
    }
    this.draw();
  }
}

const held = (share) => Math.min(Math.max(share, 0), 1);
