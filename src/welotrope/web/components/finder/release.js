import { withHand } from "../../shell/script/carry.js";

// The release on its way to the server; one that looks like an accident is asked about, and kept only when it was meant.
export class Releasing {
  // goOn is called when the round goes on, with what went wrong if anything did.
  constructor(root, base, goOn) {
    Object.assign(this, { base, goOn, panel: root.querySelector(".finder-ask") });
    this.panel.addEventListener("click", (event) => {
      const answer = event.target.closest("[data-ask]")?.dataset.ask;
      if (!answer) return;
      this.panel.hidden = true;
      if (answer === "yes") this.send({ ...this.values, meant: "yes" });
      else goOn("");
    });
  }

  async send(values) {
    this.values = values;
    const body = new FormData();
    for (const [name, value] of Object.entries(values)) body.set(name, value);
    try {
      const response = await fetch(`${this.base}/shutter`, { method: "POST", body });
      const answer = await response.json();
      if (answer.ask) this.ask(answer.ask);
      else if (answer.problem) this.goOn(answer.problem);
      else location.assign(withHand(answer.to));
    } catch (error) {
      this.goOn(`The release was not sent: ${error}. Try again.`);
    }
  }

  ask(question) {
    this.panel.querySelector("p").textContent = question;
    this.panel.hidden = false;
    this.panel.querySelector("[data-ask=no]").focus();
  }
}
