/** The settings page: a pad to try the pen on, by hand or played by the practice pen. */

import "./pen_panel.js";
import { Reading, pen } from "./pen.js";
import { RECORDINGS, play } from "./practice.js";

const pad = document.querySelector("#pad");
const paper = pad.getContext("2d");
const WIDEST = 34;
const LEAST = 0.25;
/** Lightness of the line where the pen does next to nothing, and where it does all it can. */
const PALEST = 88;
const DARKEST = 25;
const told = Object.fromEntries(["pressure", "tilt", "speed"].map((what) => [what, document.querySelector(`[data-told="${what}"]`)]));
let reading = null;
let last = null;

function clear() {
  pad.width = pad.clientWidth;
  pad.height = pad.clientHeight;
}

/** By what a measure is multiplied, as the stroke's dabs are. */
function factor(measure, { pressure, tilt, speed }) {
  const drives = pen.drivesFor(reading.isPen);
  return (drives.pressure[measure] ? pressure : 1) * (drives.tilt[measure] ? LEAST + (1 - LEAST) * tilt : 1) * (drives.speed[measure] ? 1 - (1 - LEAST) * speed : 1);
}

function draw(event) {
  for (const one of event.getCoalescedEvents?.().length ? event.getCoalescedEvents() : [event]) {
    const box = pad.getBoundingClientRect();
    const now = { x: one.clientX - box.left, y: one.clientY - box.top };
    const tells = reading.read(one);
    for (const [what, place] of Object.entries(told)) place.textContent = `${Math.round(tells[what] * 100)} %`;
    paper.lineCap = "round";
    paper.lineWidth = Math.max(1, WIDEST * factor("size", tells));
    paper.strokeStyle = `hsl(30 8% ${PALEST - (PALEST - DARKEST) * factor("opacity", tells) * factor("flow", tells)}%)`;
    paper.beginPath();
    paper.moveTo((last ?? now).x, (last ?? now).y);
    paper.lineTo(now.x, now.y);
    paper.stroke();
    last = now;
  }
}

pad.addEventListener("pointerdown", (event) => {
  event.preventDefault();
  reading = new Reading(event.pointerType === "pen");
  last = null;
  draw(event);
});
pad.addEventListener("pointermove", (event) => { if (reading) draw(event); });
for (const end of ["pointerup", "pointercancel", "pointerleave"]) pad.addEventListener(end, () => { reading = null; });
document.querySelector("#pad-clear").addEventListener("click", clear);
document.querySelector("#pad-play").addEventListener("click", async () => {
  clear();
  await play(pad, RECORDINGS[document.querySelector("[data-practice]").value], pad.getBoundingClientRect());
  pad.dataset.played = "yes";
});
clear();
