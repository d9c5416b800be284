// A still of the live picture, sent as a picture is that was dropped, then kept with a frame of the log.
import { withHand } from "../../../shell/script/carry.js";

export async function keepStill(form, video) {
  if (!video.videoWidth) return "Open a camera first.";
  const canvas = Object.assign(document.createElement("canvas"), { width: video.videoWidth, height: video.videoHeight });
  canvas.getContext("2d").drawImage(video, 0, 0);
  const still = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.92));
  const name = `live-${new Date().toISOString().slice(0, 19).replaceAll(":", "")}.jpg`;
  const query = new URLSearchParams({ batch: form.elements.batch.value, name });
  try {
    const answer = await fetch(`/log/pictures/drop?${query}`, { method: "POST", body: still });
    if (!answer.ok) return (await answer.json()).error ?? "The still was not taken.";
  } catch {
    return "The still could not be sent. Is Welotrope still running?";
  }
  form.action = withHand(form.action);
  form.submit();
  return "";
}
