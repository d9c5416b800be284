// The picture on the canvas: whole, or enlarged about the spot, with the spot and what is outlined on it.
const LEAST_SPOT = 64;
const MOVES = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export class View {
  constructor(canvas, video, moved) {
    Object.assign(this, { canvas, video, moved, zoom: "fit", spot: [0.5, 0.5], mirrored: false, cells: null, share: 0.3 });
    this.context = canvas.getContext("2d");
    this.copy = document.createElement("canvas").getContext("2d", { willReadFrequently: true });
    for (const button of document.querySelectorAll("[data-zoom]")) button.addEventListener("click", () => this.zoomTo(button.dataset.zoom));
    canvas.addEventListener("pointerdown", (event) => this.pointed(event));
    canvas.addEventListener("pointermove", (event) => event.buttons && this.pointed(event));
    canvas.addEventListener("keydown", (event) => this.stepped(event));
  }

  get size() {
    return [this.video.videoWidth, this.video.videoHeight];
  }

  // The side of the spot, pixels of the picture.
  get side() {
    const side = Math.min(512, Math.round((Math.min(...this.size) * this.share) / 2) * 2);
    return Math.max(side, LEAST_SPOT);
  }

  mirror(on) {
    this.mirrored = on;
  }

  // How large the spot is beside the shorter side of the picture.
  resize(share) {
    this.share = share;
    this.moved();
  }

  aim(x, y) {
    this.spot = [Math.min(Math.max(x, 0), 1), Math.min(Math.max(y, 0), 1)];
    this.moved();
  }

  zoomTo(zoom) {
    this.zoom = zoom;
    for (const button of document.querySelectorAll("[data-zoom]")) button.setAttribute("aria-pressed", button.dataset.zoom === zoom);
    this.draw();
  }

  // Left, top, width and height of a square of the picture about the spot, within the picture.
  around(wide, high) {
    const [width, height] = this.size;
    const [w, h] = [Math.min(wide, width), Math.min(high, height)];
    const left = Math.round(Math.min(Math.max(this.spot[0] * width - w / 2, 0), width - w));
    const top = Math.round(Math.min(Math.max(this.spot[1] * height - h / 2, 0), height - h));
    return [left, top, w, h];
  }

  // What of the picture the canvas shows.
  shown() {
    const [width, height] = this.size;
    const fit = Math.min(this.canvas.width / width, this.canvas.height / height);
    const times = this.zoom === "fit" ? fit : this.zoom === "1" ? 1 : fit * Number(this.zoom);
    return [...this.around(this.canvas.width / times, this.canvas.height / times), times];
  }

  draw() {
    const [width] = this.size;
    if (!width) return;
    const { context, canvas } = this;
    const [left, top, w, h, times] = this.shown();
    const [x, y] = [(canvas.width - w * times) / 2, (canvas.height - h * times) / 2];
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.fillStyle = "#101413";
    context.fillRect(0, 0, canvas.width, canvas.height);
    if (this.mirrored) context.setTransform(-1, 0, 0, 1, canvas.width, 0);
    context.imageSmoothingEnabled = times < 4;
    context.drawImage(this.video, left, top, w, h, x, y, w * times, h * times);
    context.translate(x - left * times, y - top * times);
    context.scale(times, times);
    this.outlined(times);
    const [sx, sy, side] = this.around(this.side, this.side);
    context.lineWidth = 2 / times;
    context.strokeStyle = "#101413";
    context.strokeRect(sx - 1 / times, sy - 1 / times, side + 2 / times, side + 2 / times);
    context.strokeStyle = "#e2b45c";
    context.strokeRect(sx, sy, side, side);
    this.placed = { x, y, left, top, times };
  }

  // Edges between cells that are sharp and those that are not.
  outlined(times) {
    if (!this.cells) return;
    const { context, cells: { left, top, cell, rows } } = this;
    context.lineWidth = 2.5 / times;
    context.strokeStyle = "#86d2c0";
    context.beginPath();
    const sharp = (row, column) => rows[row]?.[column] === 1;
    for (const [row, of] of rows.entries()) {
      for (const [column, one] of of.entries()) {
        if (one !== 1) continue;
        const [x, y] = [left + column * cell, top + row * cell];
        if (!sharp(row - 1, column)) context.moveTo(x, y), context.lineTo(x + cell, y);
        if (!sharp(row + 1, column)) context.moveTo(x, y + cell), context.lineTo(x + cell, y + cell);
        if (!sharp(row, column - 1)) context.moveTo(x, y), context.lineTo(x, y + cell);
        if (!sharp(row, column + 1)) context.moveTo(x + cell, y), context.lineTo(x + cell, y + cell);
      }
    }
    context.stroke();
  }

  // The grey values of a part of the picture, a byte a pixel: its green, of which sensors hold most.
  grey(wide, high) {
    const [left, top, width, height] = this.around(wide, high);
    Object.assign(this.copy.canvas, { width, height });
    this.copy.drawImage(this.video, left, top, width, height, 0, 0, width, height);
    const { data } = this.copy.getImageData(0, 0, width, height);
    const grey = new Uint8Array(width * height);
    for (let index = 0; index < grey.length; index += 1) grey[index] = data[4 * index + 1];
    return { grey, left, top, width, height };
  }

  pointed(event) {
    if (!this.placed) return;
    const { canvas, placed } = this;
    const box = canvas.getBoundingClientRect();
    const across = ((event.clientX - box.left) / box.width) * canvas.width;
    const right = this.mirrored ? canvas.width - across : across;
    const down = ((event.clientY - box.top) / box.height) * canvas.height;
    const [width, height] = this.size;
    this.aim((placed.left + (right - placed.x) / placed.times) / width, (placed.top + (down - placed.y) / placed.times) / height);
  }

  stepped(event) {
    const move = MOVES[event.key];
    if (!move) return;
    event.preventDefault();
    const by = event.shiftKey ? 0.1 : 0.02;
    this.aim(this.spot[0] + by * move[0] * (this.mirrored ? -1 : 1), this.spot[1] + by * move[1]);
  }
}
