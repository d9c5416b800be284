// Starts what the page needs; each behaviour is a module of its own.
import { startDialog } from "./dialog.js";
import { startKeys } from "./keys.js";
import { startJumpFilter } from "./jump_filter.js";
import { startPrint } from "./print_button.js";
import { startRows } from "./subject_rows.js";

startDialog();
startKeys();
startJumpFilter();
startRows();
startPrint();
if (document.getElementById("finder-plan")) {
  const { startFinder } = await import("./finder.js");
  startFinder();
}
if (document.getElementById("ring-data")) {
  const { startInstruments } = await import("./instruments.js");
  startInstruments();
}
