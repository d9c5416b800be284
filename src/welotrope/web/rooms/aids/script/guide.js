// A guided use: which step it is at, and what is to do there.
const NEXT = "Next";

export class Guide {
  constructor(select, says, button, renew) {
    Object.assign(this, { select, says, button, renew, step: 0 });
    this.words = button.firstChild;
    button.addEventListener("click", () => this.next());
  }

  get key() {
    return this.select.value;
  }

  restart() {
    this.step = 0;
    this.says.textContent = "";
    this.renew();
  }

  next() {
    if (this.byHand) this.step += 1;
    this.renew();
  }

  asked(scale) {
    const stack = this.key === "stack" ? { frames: scale.frames, step_px: scale.step_px } : {};
    return { guide: this.key, step: this.step, measures: this.key === "stars" ? "stars" : "detail", ...stack };
  }

  take(answer) {
    this.step = answer.step;
    this.last = answer.steps - 1;
    this.byHand = answer.by_hand && this.step < this.last;
    this.says.textContent = answer.steps > 1 ? `${answer.step + 1} of ${answer.steps}: ${answer.do}` : "";
    this.words.textContent = this.byHand ? `${NEXT} ` : "New sweep ";
    if (answer.fresh) this.renew();
  }
}
