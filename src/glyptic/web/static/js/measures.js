/** Histograms, the layer's sentence, and the numbers under the pointer. */

import { begin, end } from "./busy.js";
import { channel } from "./curve.js";
import { showFaults, showUnder } from "./curve_marks.js";
import { currentTab } from "./controls.js";
import { get } from "./server.js";
import { session } from "./session.js";

const PATIENCE = 120;
let latest = null;
let timer = 0;
let asked = 0;

/** The path of a histogram in a box: counts are drawn by their square root, so that small ones are seen. */
function plot(counts, width, height, closed) {
  const heights = counts.map(Math.sqrt);
  const top = Math.max(...heights.slice(1, -1), 1);
  const places = heights.map((h, i) => `${((i + 0.5) * width) / counts.length} ${height - Math.min(1, h / top) * (height - 2)}`);
  return closed ? `M0 ${height}L${places.join("L")}L${width} ${height}Z` : `M${places.join("L")}`;
}

function draw() {
  if (!latest) return;
  document.querySelector("#hist-now").setAttribute("d", plot(latest.finished.tone, 276, 50, true));
  document.querySelector("#hist-base").setAttribute("d", plot(latest.base.tone, 276, 50, false));
  if (latest.layer !== session.chosen) return;
  document.querySelector("#says-layer").textContent = latest.sentence;
  const shown = document.querySelector("#mask-shown");
  if (shown && latest.shown !== null) shown.textContent = `${Math.round(latest.shown * 100)} % shown`;
  for (const path of document.querySelectorAll("#desk [data-hist]")) {
    if (path.dataset.of) {
      path.setAttribute("d", plot(latest[path.dataset.hist].tone, 276, 56, true));
      continue;
    }
    const [name, height] = path.closest("#curve") ? [channel(), 168] : [currentTab("levels") ?? "rgb", 72];
    const below = path.dataset.hist === "below";
    path.setAttribute("d", plot(latest[path.dataset.hist][name], 276, height, below));
  }
  showFaults(latest.faults);
}

const CLIPS_TOLD = 0.0005;
let clips = {};
let clipsTimer = 0;

/** Say on each card how much its layer newly clips. */
function drawClips() {
  for (const note of document.querySelectorAll("#strip [data-clips]")) {
    const share = clips[note.dataset.clips] ?? 0;
    note.classList.toggle("clips", share >= CLIPS_TOLD);
    if (share >= CLIPS_TOLD) note.textContent = `clips ${(share * 100).toFixed(1)} %`;
  }
}

function clipsSoon() {
  clearTimeout(clipsTimer);
  clipsTimer = setTimeout(async () => {
    try {
      const found = await get(`${session.url}clips`);
      if (found.revision !== session.state.revision) return;
      ({ clips } = found);
      drawClips();
    } catch { /* the next change asks again */ }
  }, PATIENCE);
}

export function measureSoon() {
  draw();
  drawClips();
  if (timer) clearTimeout(timer);
  else begin();
  timer = setTimeout(async () => {
    timer = 0;
    const number = (asked += 1);
    try {
      const found = await get(`${session.url}measures`);
      if (number === asked) {
        latest = found;
        draw();
        clipsSoon();
      }
    } catch { /* the next change asks again */ }
    end();
  }, PATIENCE);
}
document.addEventListener("histograms", draw);

const chip = document.querySelector("#chip");

/** The chip beside the ring: the spot now, and as a full stroke of the brush would leave it. */
function showChip(spot) {
  chip.hidden = !spot?.then;
  if (chip.hidden) return;
  chip.querySelector('[data-chip="now"]').style.background = `rgb(${spot.after.join(" ")})`;
  chip.querySelector('[data-chip="then"]').style.background = `rgb(${spot.then.join(" ")})`;
  chip.querySelector("span").textContent = `${Math.round(spot.toneAfter * 100)} → ${Math.round(spot.toneThen * 100)} %`;
}

let asking = false;
let wanted = null;
const boxes = Object.fromEntries([...document.querySelectorAll("[data-num]")].map((box) => [box.dataset.num, box]));

function showNumbers(spot) {
  const blank = !spot || spot.outside;
  const tone = (t) => (blank ? "·" : `${Math.round(t * 100)} %`);
  boxes.toneBefore.textContent = tone(spot?.toneBefore);
  boxes.toneAfter.textContent = tone(spot?.toneAfter);
  ["R", "G", "B"].forEach((letter, i) => {
    boxes[`b${i}`].textContent = `${letter} ${blank ? "·" : spot.before[i]}`;
    boxes[`a${i}`].textContent = `${letter} ${blank ? "·" : spot.after[i]}`;
  });
  showUnder(blank ? null : spot.meets);
  showChip(blank ? null : spot);
}

/** Show the numbers at a place of the picture, or none; one question at a time, the newest counts. `brush` adds
 * {target, to, opacity}: then the chip shows what a full stroke would leave. */
export async function pointAt(place, brush) {
  wanted = place && { ...place, brush };
  if (asking) return;
  asking = true;
  while (wanted) {
    const { x, y, brush: held } = wanted;
    wanted = null;
    const question = new URLSearchParams({ x: x.toFixed(1), y: y.toFixed(1), level: session.canvas.level, ...held });
    try {
      showNumbers(await get(`${session.url}spot?${question}`));
    } catch { break; }
  }
  asking = false;
  if (place === null) showNumbers(null);
}
