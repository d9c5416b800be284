// A made-up camera: pictures the server rendered for places of a ring, shaken and grainy, as a stream like any other.
import { withHand } from "../../../shell/script/carry.js";

const RATE = 30; // pictures a second
const SHAKE_PX = 2; // whole pixels: parts of one would blur the picture
const GRAIN = 0.05;

export class MadeUpCamera {
  constructor(scene, ring) {
    Object.assign(this, { scene, ring, pictures: new Map(), shake: [0, 0], closed: false });
    this.canvas = document.createElement("canvas");
    this.context = this.canvas.getContext("2d");
    this.grain = grained();
  }

  // ``failed`` is called with what went wrong later: the pictures are made while it plays, those near the ring first.
  async open(failed) {
    const told = await fetch(withHand(`/aids/live/made-up/${this.scene}.json`)).then((answer) => answer.json());
    if (told.error) throw new Error(told.error);
    Object.assign(this, { frames: told.frames, target: [told.x, told.y], step: told.step });
    this.ring.max = told.frames - 1;
    for (const index of this.places()) await this.load(index);
    this.timer = setInterval(() => this.draw(), 1000 / RATE);
    this.draw();
    this.loadOthers().catch((error) => this.closed || failed(error));
    return this.canvas.captureStream(RATE);
  }

  // Between these two places the ring stands.
  places() {
    return [Math.floor(this.ring.value), Math.ceil(this.ring.value)];
  }

  async loadOthers() {
    const missing = new Set(Array(this.frames).keys());
    while (!this.closed) {
      for (const index of this.pictures.keys()) missing.delete(index);
      if (!missing.size) return;
      const away = (index) => Math.abs(index - this.ring.value);
      await this.load([...missing].reduce((nearest, index) => (away(index) < away(nearest) ? index : nearest)));
    }
  }

  async load(index) {
    const answer = await fetch(withHand(`/aids/live/made-up/${this.scene}/${index}.jpg`)).catch(() => null);
    if (!answer?.ok) throw new Error("The made-up camera does not answer. Try it again.");
    const picture = await createImageBitmap(await answer.blob());
    if (this.closed) picture.close();
    else this.pictures.set(index, picture);
  }

  draw() {
    const { context, canvas, ring } = this;
    const [below, above] = this.places().map((index) => this.pictures.get(index));
    if (!below || !above) return; // the picture before stays until that of this place is made
    if (canvas.width !== below.width) Object.assign(canvas, { width: below.width, height: below.height });
    this.shake = this.shake.map((one) => 0.8 * one + SHAKE_PX * (Math.random() - 0.5));
    context.globalAlpha = 1;
    const shaken = this.shake.map(Math.round);
    context.drawImage(below, ...shaken);
    context.globalAlpha = ring.value % 1;
    if (above !== below) context.drawImage(above, ...shaken);
    context.globalAlpha = GRAIN;
    context.fillStyle = context.createPattern(this.grain, "repeat");
    const [right, down] = [Math.random() * 256, Math.random() * 256];
    context.setTransform(1, 0, 0, 1, Math.floor(right), Math.floor(down));
    context.fillRect(-right, -down, canvas.width, canvas.height);
    context.setTransform(1, 0, 0, 1, 0, 0);
  }

  close() {
    this.closed = true;
    clearInterval(this.timer);
    for (const picture of this.pictures.values()) picture.close();
    this.pictures.clear();
  }
}

function grained() {
  const context = Object.assign(document.createElement("canvas"), { width: 256, height: 256 }).getContext("2d");
  const image = context.createImageData(256, 256);
  for (let index = 0; index < image.data.length; index += 4) {
    image.data.fill(Math.random() * 255, index, index + 3);
    image.data[index + 3] = 255;
  }
  context.putImageData(image, 0, 0);
  return context.canvas;
}
