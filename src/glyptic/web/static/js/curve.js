/** The curve: points added by a press, dragged, dragged off, nudged by keys, set by numbers. */

import { currentTab } from "./controls.js";
import { session } from "./session.js";

const WIDTH = 276;
const HEIGHT = 168;
const GRAB = 10;
const OFF = 26;
const GAP = 0.004;
const STRAIGHT = [[0, 0], [1, 1]];

let drag = null;
let chosen = 0;
let under = null;

const svg = () => document.querySelector("#curve");
const channel = () => currentTab("curves") ?? "rgb";
const kept = () => JSON.parse(svg().dataset.points).points?.[channel()] ?? STRAIGHT;
const points = () => drag?.points ?? kept();
const field = () => `settings.points.${channel()}`;
const clamp = (v, low, high) => Math.min(high, Math.max(low, v));

function lozenge(x, y, extra) {
  const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
  path.setAttribute("d", `M${x} ${y - 6}l6 6-6 6-6-6z`);
  if (extra) path.setAttribute("class", extra);
  return path;
}

/** Draw lines and points; `paths` are the server's, by channel. */
export function drawCurve(paths = session.state.curves) {
  const box = svg();
  if (!box) return;
  box.querySelector(".line").setAttribute("d", paths[channel()] ?? "");
  box.querySelector(".others").replaceChildren(
    ...Object.entries(paths).filter(([name, path]) => name !== channel() && path !== straightOf(path)).map(([name, path]) => {
      const line = document.createElementNS("http://www.w3.org/2000/svg", "path");
      line.setAttribute("d", path);
      line.setAttribute("class", name);
      return line;
    }),
  );
  drawPoints();
}

function onLine(corner) {
  const [x, y] = corner.split(",").map(Number);
  return Math.abs(y - HEIGHT * (1 - x / WIDTH)) < 0.3;
}

/** A straight line is left out among the other channels: its path is a run of equal steps. */
function straightOf(path) {
  const [first, second] = [path.split("L")[1], path.split("L").at(-2)];
  const middle = path.split("L")[69];
  return onLine(first) && onLine(second) && onLine(middle) ? path : "";
}

function drawPoints() {
  const box = svg();
  const all = points();
  chosen = clamp(chosen, 0, all.length - 1);
  box.querySelector(".points").replaceChildren(
    ...all.map(([x, y], i) => {
      const state = drag?.leaving && i === chosen ? "leaving" : i === chosen ? "chosen" : "";
      return lozenge(x * WIDTH, (1 - y) * HEIGHT, state);
    }),
  );
  const [x, y] = all[chosen];
  const numbers = [["#point-in", x], ["#point-out", y]];
  for (const [id, value] of numbers) {
    const input = document.querySelector(id);
    if (document.activeElement !== input) input.value = (value * 100).toFixed(1);
  }
}

/** Show where the tone under the pointer lies: below = [r, g, b, tone] of what reaches the layer, or null. */
export function showUnder(below) {
  under = below;
  const line = svg()?.querySelector(".here");
  if (!line) return;
  line.toggleAttribute("hidden", !below);
  if (!below) return;
  const [r, g, b, tone] = below;
  const value = { red: r, green: g, blue: b, tone, rgb: (r + g + b) / 3 }[channel()];
  const x = clamp(value, 0, 1) * WIDTH;
  line.setAttribute("d", `M${x} 0V${HEIGHT}`);
}

function within(event) {
  const box = svg().getBoundingClientRect();
  return { x: ((event.clientX - box.left) * WIDTH) / box.width, y: ((event.clientY - box.top) * HEIGHT) / box.height };
}

function nearest(at) {
  const all = points();
  const distances = all.map(([x, y]) => Math.hypot(x * WIDTH - at.x, (1 - y) * HEIGHT - at.y));
  const best = distances.indexOf(Math.min(...distances));
  return distances[best] <= GRAB ? best : -1;
}

/** The point nearest to a value, whatever its height. */
function nearestAcross(x) {
  const distances = points().map(([px]) => Math.abs(px - x));
  return distances.indexOf(Math.min(...distances));
}

function moved(all, index, x, y) {
  const low = index > 0 ? all[index - 1][0] + GAP : 0;
  const high = index < all.length - 1 ? all[index + 1][0] - GAP : 1;
  return all.with(index, [Number(clamp(x, low, high).toFixed(5)), Number(clamp(y, 0, 1).toFixed(5))]);
}

function added(all, x, y) {
  if (all.length >= 32 || all.some(([px]) => Math.abs(px - x) < GAP)) return null;
  const index = all.findIndex(([px]) => px > x);
  const at = index < 0 ? all.length : index;
  return { index: at, points: all.toSpliced(at, 0, [x, y]) };
}

function show() {
  drawPoints();
  const shown = drag.leaving ? drag.points.toSpliced(chosen, 1) : drag.points;
  session.draftSet(field(), shown);
}

function keep(all) {
  const box = svg();
  const plain = JSON.parse(box.dataset.points);
  box.dataset.points = JSON.stringify({ points: { ...plain.points, [channel()]: all } });
  drag = null;
  drawPoints();
  return session.set(field(), all);
}

document.addEventListener("pointerdown", (event) => {
  const box = event.target.closest?.("#curve");
  if (!box || event.button !== 0) return;
  box.setPointerCapture(event.pointerId);
  box.focus();
  const at = within(event);
  let index = nearest(at);
  let all = kept();
  if (index < 0) {
    const made = added(all, clamp(at.x / WIDTH, 0, 1), clamp(1 - at.y / HEIGHT, 0, 1));
    if (made) ({ index, points: all } = made);
    else index = nearestAcross(at.x / WIDTH);
  }
  chosen = index;
  drag = { pointer: event.pointerId, points: all, start: all, leaving: false };
  show();
});

document.addEventListener("pointermove", (event) => {
  if (drag?.pointer !== event.pointerId) return;
  const at = within(event);
  const off = Math.max(-at.x, at.x - WIDTH, -at.y, at.y - HEIGHT);
  drag.leaving = off > OFF && drag.points.length > 2;
  drag.points = moved(drag.start, chosen, at.x / WIDTH, 1 - at.y / HEIGHT);
  show();
});

function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { leaving, points: all } = drag;
  keep(leaving ? all.toSpliced(chosen, 1) : all);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

const NUDGES = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

document.addEventListener("keydown", (event) => {
  if (!event.target.closest?.("#curve") || event.ctrlKey || event.metaKey) return;
  const all = kept();
  if (NUDGES[event.key]) {
    const step = event.shiftKey ? 0.05 : 0.005;
    const [dx, dy] = NUDGES[event.key];
    const [x, y] = all[chosen];
    keep(moved(all, chosen, x + dx * step, y + dy * step));
  } else if (event.key === "PageUp" || event.key === "PageDown") {
    chosen = clamp(chosen + (event.key === "PageUp" ? 1 : -1), 0, all.length - 1);
    drawPoints();
  } else if ((event.key === "Delete" || event.key === "Backspace") && all.length > 2) {
    keep(all.toSpliced(chosen, 1));
  } else if (event.key === "Enter") {
    const next = Math.min(chosen + 1, all.length - 1);
    const from = next - 1;
    const made = added(all, (all[from][0] + all[next][0]) / 2, (all[from][1] + all[next][1]) / 2);
    if (made) { chosen = made.index; keep(made.points); }
  } else {
    return;
  }
  event.preventDefault();
  event.stopPropagation();
}, true);

document.addEventListener("change", (event) => {
  if (event.target.id !== "point-in" && event.target.id !== "point-out") return;
  const [x, y] = ["#point-in", "#point-out"].map((id) => Number(document.querySelector(id).value) / 100);
  if (Number.isFinite(x) && Number.isFinite(y)) keep(moved(kept(), chosen, x, y));
});

document.addEventListener("click", (event) => {
  if (event.target.id === "curve-reset") { chosen = 0; keep(STRAIGHT); }
});

document.addEventListener("tab", (event) => {
  if (event.detail !== "curves") return;
  drawCurve();
  showUnder(under);
  document.dispatchEvent(new Event("histograms"));
});
session.addEventListener("draft", (event) => { if (Object.keys(event.detail.curves).length) drawCurve(event.detail.curves); });

export { channel };
