// A tone that rises with sharpness, for eyes that are elsewhere.
const LOW = 220; // Hz
const OCTAVES = 2;

export class Tone {
  constructor(box) {
    this.box = box;
    box.addEventListener("change", () => (box.checked ? this.start() : this.rest()));
  }

  start() {
    this.sound ??= new AudioContext();
    this.level ??= new GainNode(this.sound, { gain: 0 });
    if (!this.pitch) {
      this.pitch = new OscillatorNode(this.sound, { frequency: LOW, type: "triangle" });
      this.pitch.connect(this.level).connect(this.sound.destination);
      this.pitch.start();
    }
    this.sound.resume();
  }

  tune(answer) {
    const known = answer.best_frame !== null && !answer.change;
    this.level.gain.setTargetAtTime(known ? 0.12 : 0, this.sound.currentTime, 0.03);
    this.pitch.frequency.setTargetAtTime(LOW * 2 ** (OCTAVES * answer.share), this.sound.currentTime, 0.03);
  }

  play(answer) {
    if (this.box.checked && this.pitch) this.tune(answer);
  }

  rest() {
    this.level?.gain.setTargetAtTime(0, this.sound.currentTime, 0.03);
  }
}
