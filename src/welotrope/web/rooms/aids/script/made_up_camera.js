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

  // ``made`` is called with how many pictures of how many are there.
  async open(made) {
    const told = await fetch(withHand(`/aids/live/made-up/${this.scene}.json`)).then((answer) => answer.json());
    if (told.error) throw new Error(told.error);
    Object.assign(this, { frames: told.frames, target: [told.x, told.y], step: told.step });
    this.ring.max = told.frames - 1;
    for (let index = 0; index < this.frames && !this.closed; index += 1) {
      made(index, this.frames);
      await this.load(index);
    }
    this.timer = setInterval(() => this.draw(), 1000 / RATE);
    this.draw();
    return this.canvas.captureStream(RATE);
  }

  async load(index) {
    const answer = await fetch(withHand(`/aids/live/made-up/${this.scene}/${index}.jpg`));
    if (!answer.ok) throw new Error("The made-up camera does not answer. Try it again.");
    this.pictures.set(index, await createImageBitmap(await answer.blob()));
  }

  draw() {
    const { context, canvas, ring } = this;
    const below = this.pictures.get(Math.floor(ring.value));
    const above = this.pictures.get(Math.ceil(ring.value));
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
