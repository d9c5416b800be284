// A tone or a voice when a picture was measured: the screen stands behind the photographer.
const KEY = "welotrope-cue";
const TONES = { fine: [660, 880], doubtful: [440, 330] }; // Hz, one after the other
const TONE_S = 0.14;

export function startCue() {
  let count = shown()?.dataset.cue;
  let sound = null;
  const take = (value) => {
    remember(value);
    sound ??= new AudioContext(); // a browser lets a page sound only after a hand was laid on it
    if (value) cue(value, sound, shown());
  };
  const early = [...document.getElementsByName("cue")].find((field) => field.checked && !field.defaultChecked);
  if (early) take(early.value); // chosen while this script was still on its way
  choose();
  document.addEventListener("change", (event) => {
    if (event.target.name === "cue") take(event.target.value);
  });
  document.addEventListener("htmx:afterSettle", () => {
    choose();
    const now = shown()?.dataset.cue;
    if (now === count) return;
    count = now;
    if (chosen()) cue(chosen(), (sound ??= new AudioContext()), shown());
  });
}

const shown = () => document.querySelector("[data-cue]");

// Drawn anew with each look at the folder, the choice is put back.
function choose() {
  for (const field of document.getElementsByName("cue")) field.checked = field.value === chosen();
}

function chosen() {
  try {
    return sessionStorage.getItem(KEY) ?? "";
  } catch {
    return "";
  }
}

function remember(value) {
  try {
    sessionStorage.setItem(KEY, value);
  } catch {
    // without storage it stays silent
  }
}

function cue(how, sound, section) {
  if (how === "voice" && "speechSynthesis" in window) {
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(section.dataset.doubt || section.dataset.say));
    return;
  }
  const tones = section.dataset.doubt ? TONES.doubtful : TONES.fine;
  for (const [index, pitch] of tones.entries()) {
    const tone = new OscillatorNode(sound, { frequency: pitch });
    const level = new GainNode(sound, { gain: 0.15 });
    tone.connect(level).connect(sound.destination);
    tone.start(sound.currentTime + index * TONE_S);
    tone.stop(sound.currentTime + (index + 1) * TONE_S);
  }
}
