// Opening a camera, and why it does not open.
const WORDS = {
  NotAllowedError: "The browser was not allowed to open a camera. Allow it at the left of the address, then open it again.",
  NotFoundError: "No camera was found. Connect it by its cable or a capture stick, switch its live view on, and try again.",
  NotReadableError: "The camera is taken by another program. Close that program, then open it again.",
  AbortError: "The camera did not start. Unplug it, plug it in again, and open it once more.",
  OverconstrainedError: "That camera is no longer there. Choose another one.",
};
const HERE_ONLY = "Browsers give a camera only to pages of their own computer. Open this page on the computer itself, at 127.0.0.1.";

export async function openCamera(device, ended) {
  if (!navigator.mediaDevices?.getUserMedia) throw new DOMException(HERE_ONLY, "SecurityError");
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: false,
    video: { ...(device ? { deviceId: { exact: device } } : {}), width: { ideal: 3840 }, height: { ideal: 2160 }, frameRate: { ideal: 30 } },
  });
  stream.getVideoTracks()[0].addEventListener("ended", ended);
  return stream;
}

// Names of cameras are told only once one was allowed.
export async function listCameras(select) {
  const chosen = select.value;
  const every = (await navigator.mediaDevices.enumerateDevices()).filter((one) => one.kind === "videoinput");
  select.replaceChildren(new Option("any", ""), ...every.map((one, index) => new Option(one.label || `Camera ${index + 1}`, one.deviceId)));
  select.value = chosen;
}

export const problemOf = (error) => (error.name === "SecurityError" ? HERE_ONLY : (WORDS[error.name] ?? `The camera could not be opened: ${error.message}`));
