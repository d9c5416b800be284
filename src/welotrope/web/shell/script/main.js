// Starts what the page needs; each behaviour is a module of its own.
import { startCarry } from "./carry.js";
import { startDialog } from "./dialog.js";
import { startFocus } from "./focus.js";
import { startInPlace } from "./in_place.js";
import { startKeys } from "./keys.js";
import { startJumpFilter } from "./jump_filter.js";
import { startTypedMeanwhile } from "./typed_meanwhile.js";
import { startPrint, startUnfolding } from "./print_button.js";
import { startDials } from "../../components/dial/dial.js";
import { startReaction } from "../../components/reaction/reaction.js";
import { startStillRings } from "../../components/ring/edge_numerals.js";
import { startRows } from "../../components/ground/subject_rows.js";

startCarry();
startDialog();
startKeys();
startJumpFilter();
startRows();
startFocus();
startInPlace(startContent);
startTypedMeanwhile();
startUnfolding();
startContent();
if (document.getElementById("drop")) {
  const { startDrop } = await import("../../rooms/log/script/drop.js");
  startDrop();
}
if (document.querySelector("[data-cue]")) {
  const { startCue } = await import("../../rooms/shots/script/cue.js");
  startCue();
}
if (document.getElementById("review")) {
  const { startReview } = await import("../../rooms/log/script/review.js");
  startReview();
}
if (document.getElementById("clock")) {
  const { startClock } = await import("../../rooms/log/script/clock.js");
  startClock();
}
if (document.getElementById("timeline")) {
  const { startTimeline } = await import("../../rooms/log/script/timeline.js");
  startTimeline();
}
if (document.getElementById("card_px")) {
  const { startCard } = await import("../../components/finder/card.js");
  startCard();
}
if (document.getElementById("live-plan")) {
  const { startLive } = await import("../../rooms/aids/script/live.js");
  startLive();
}
if (document.getElementById("finder-plan")) {
  const { startFinder } = await import("../../components/finder/finder.js");
  startFinder();
}

// What belongs to the main part of the page, again whenever that is drawn anew.
async function startContent() {
  startPrint();
  startDials();
  startReaction();
  startStillRings();
  if (!document.getElementById("ring-data")) return;
  const { startInstruments } = await import("../../components/ring/instruments.js");
  startInstruments();
}
