// Sends the spot to the server, one frame at a time, and passes on what it answers.
const key = () => crypto.randomUUID().slice(0, 18);

export async function sendGrey(path, query, { grey, width, height }) {
  const asked = new URLSearchParams({ ...query, width, height });
  const answer = await fetch(`/api/live/${path}?${asked}`, { method: "POST", headers: { "content-type": "application/octet-stream" }, body: grey });
  const found = await answer.json();
  if (!answer.ok) throw new Error(found.error);
  return found;
}

export class Measuring {
  constructor(view, asked, answered, failed) {
    Object.assign(this, { view, asked, answered, failed, busy: false, sweep: key() });
  }

  // What comes from here on is compared with nothing before.
  renew() {
    this.sweep = key();
  }

  async look() {
    if (this.busy || !this.view.size[0]) return;
    this.busy = true;
    const { sweep, view } = this;
    try {
      const found = await sendGrey("measure", { sweep, ...this.asked() }, view.grey(view.side, view.side));
      if (sweep === this.sweep) this.answered(found);
    } catch (error) {
      this.failed(error.name === "TypeError" ? "Welotrope does not answer. Is it still running?" : error.message);
    }
    this.busy = false;
  }
}
