// What plays on the page: a camera of the computer or the made-up one, opened, changed and closed.
import { openCamera, listCameras, problemOf } from "./source.js";
import { MadeUpCamera } from "./made_up_camera.js";

const field = (name) => document.getElementById(`live-${name}`);
const UNPLUGGED = "The camera was unplugged or taken by another program. Plug it in and open it again.";

export class Camera {
  // ``hears`` has begun(), ended(problem), told(problem), said(words) and aimed(x, y).
  constructor(root, video, hears) {
    Object.assign(this, { root, video, hears, madeUp: null, round: 0 });
    this.start = root.querySelector(".live-start");
  }

  async open() {
    this.hears.told("");
    try {
      this.show(await openCamera(field("device").value, () => this.end(UNPLUGGED)));
      await listCameras(field("device"));
    } catch (error) {
      this.hears.told(problemOf(error));
    }
  }

  async tryOut() {
    this.hears.told("");
    this.close();
    const camera = new MadeUpCamera(field("scene").value, field("ring"));
    this.asked = camera;
    try {
      this.hears.said("Making the first picture");
      const stream = await camera.open((error) => this.end(error.message));
      if (this.asked !== camera) return camera.close(); // another scene was chosen meanwhile
      field("step").value = camera.step;
      this.show(stream, camera);
      this.hears.aimed(...camera.target);
      this.root.dataset.madeUp = "yes";
    } catch (error) {
      this.hears.told(error.message);
    }
  }

  show(stream, madeUp = null) {
    this.close();
    this.madeUp = madeUp;
    this.start.hidden = true;
    this.root.querySelector(".live-ring").hidden = !madeUp;
    this.video.srcObject = stream;
    this.video.play();
    this.hears.begun();
  }

  // Calls for every new frame, until something else is shown.
  each(drawn) {
    const round = this.round;
    const next = () => {
      if (round !== this.round) return;
      drawn();
      this.video.requestVideoFrameCallback(next);
    };
    this.video.requestVideoFrameCallback(next);
  }

  end(problem) {
    this.close();
    this.start.hidden = false;
    this.hears.ended(problem);
  }

  close() {
    this.round += 1;
    for (const track of this.video.srcObject?.getTracks() ?? []) track.stop();
    this.madeUp?.close();
    this.video.srcObject = this.madeUp = null;
  }
}
