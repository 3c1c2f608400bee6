/** The curve: points added by a press, dragged (one or several), dragged off, nudged by keys, set by numbers. */

import { currentTab } from "./controls.js";
import { HEIGHT, WIDTH, drawMarks } from "./curve_marks.js";
import { element } from "./drawing.js";
import { session } from "./session.js";

const GRAB = 10;
const OFF = 26;
const GAP = 0.004;
const STRAIGHT = [[0, 0], [1, 1]];

let drag = null;
let chosen = 0;
let also = new Set();
let shownChannel = "";

const svg = () => document.querySelector("#curve");
const channel = () => currentTab("curves") ?? "rgb";
const settings = () => JSON.parse(svg().dataset.points).points ?? {};
const kept = () => settings()[channel()] ?? STRAIGHT;
const points = () => drag?.points ?? kept();
const field = () => `settings.points.${channel()}`;
const clamp = (v, low, high) => Math.min(high, Math.max(low, v));
const picked = (all) => [...new Set([chosen, ...also])].filter((i) => i < all.length).toSorted((a, b) => a - b);

/** Draw lines and points; `paths` are the server's, by channel. */
export function drawCurve(paths = session.state.curves) {
  const box = svg();
  if (!box) return;
  box.dataset.channel = channel();
  box.querySelector(".line").setAttribute("d", paths[channel()] ?? "");
  box.querySelector(".others").replaceChildren(
    ...Object.entries(paths).filter(([name]) => name !== channel() && settings()[name]).map(([name, d]) => element("path", { d, class: name })),
  );
  const tab = document.querySelector(`#desk [data-tab="${channel()}"]`);
  box.querySelector(".up").textContent = tab.dataset.up;
  box.querySelector(".down").textContent = tab.dataset.down;
  drawPoints();
  drawMarks(channel(), paths);
}

function drawPoints() {
  const all = points();
  chosen = clamp(chosen, 0, all.length - 1);
  const several = new Set(picked(all));
  svg().querySelector(".points").replaceChildren(
    ...all.map(([x, y], i) => {
      const state = drag?.leaving && several.has(i) ? "leaving" : i === chosen ? "chosen" : several.has(i) ? "also" : "";
      return element("path", { d: `M${x * WIDTH} ${(1 - y) * HEIGHT - 6}l6 6-6 6-6-6z`, class: state });
    }),
  );
  const [x, y] = all[chosen];
  for (const [id, value] of [["#point-in", x], ["#point-out", y]]) {
    const input = document.querySelector(id);
    if (document.activeElement !== input) input.value = (value * 100).toFixed(1);
  }
  document.querySelector("#point-which").textContent = several.size > 1 ? `${several.size} points` : `${chosen + 1} of ${all.length}`;
}

function within(event) {
  const box = svg().getBoundingClientRect();
  return { x: ((event.clientX - box.left) * WIDTH) / box.width, y: ((event.clientY - box.top) * HEIGHT) / box.height };
}

function nearest(at) {
  const distances = points().map(([x, y]) => Math.hypot(x * WIDTH - at.x, (1 - y) * HEIGHT - at.y));
  const best = distances.indexOf(Math.min(...distances));
  return distances[best] <= GRAB ? best : -1;
}

/** The point nearest to a value, whatever its height. */
function nearestAcross(x) {
  const distances = points().map(([px]) => Math.abs(px - x));
  return distances.indexOf(Math.min(...distances));
}

const tidy = (v) => Number(v.toFixed(5));

/** Points moved together, as far as their neighbours and the ends of the range allow. */
function moved(all, which, dx, dy) {
  const set = new Set(which);
  let [least, most] = [-1, 1];
  for (const i of which) {
    const [x] = all[i];
    if (!set.has(i - 1)) least = Math.max(least, (i > 0 ? all[i - 1][0] + GAP : 0) - x);
    if (!set.has(i + 1)) most = Math.min(most, (i < all.length - 1 ? all[i + 1][0] - GAP : 1) - x);
  }
  const across = clamp(dx, Math.min(least, 0), Math.max(most, 0));
  const ys = which.map((i) => all[i][1]);
  const up = which.length > 1 ? clamp(dy, -Math.min(...ys), 1 - Math.max(...ys)) : dy;
  return all.map(([x, y], i) => (set.has(i) ? [tidy(x + across), tidy(clamp(y + up, 0, 1))] : [x, y]));
}

function added(all, x, y) {
  if (all.length >= 32 || all.some(([px]) => Math.abs(px - x) < GAP)) return null;
  const index = all.findIndex(([px]) => px > x);
  const at = index < 0 ? all.length : index;
  return { index: at, points: all.toSpliced(at, 0, [x, y]) };
}

/** All but some points; two are always left. */
function without(all, which) {
  const gone = new Set(which);
  const left = all.filter((_, i) => !gone.has(i));
  return left.length >= 2 ? left : all;
}

function show() {
  drawPoints();
  session.draftSet(field(), drag.leaving ? without(drag.points, picked(drag.points)) : drag.points);
}

function keep(all) {
  const box = svg();
  box.dataset.points = JSON.stringify({ points: { ...settings(), [channel()]: all } });
  drag = null;
  drawPoints();
  return session.set(field(), all);
}

/** A box drawn with Shift held chooses the points in it. */
function boxed(event) {
  const start = within(event);
  drag = { pointer: event.pointerId, box: start, points: kept() };
}

document.addEventListener("pointerdown", (event) => {
  const box = event.target.closest?.("#curve");
  if (!box || event.button !== 0) return;
  box.setPointerCapture(event.pointerId);
  box.focus();
  const at = within(event);
  let index = nearest(at);
  let all = kept();
  if (event.shiftKey) {
    if (index < 0) { boxed(event); return; }
    if (!also.delete(index)) also.add(index);
    also.add(chosen);
    chosen = index;
    drawPoints();
    return;
  }
  if (index < 0) {
    const made = added(all, tidy(clamp(at.x / WIDTH, 0, 1)), tidy(clamp(1 - at.y / HEIGHT, 0, 1)));
    if (made) ({ index, points: all } = made);
    else index = nearestAcross(at.x / WIDTH);
    also = new Set();
  } else if (!also.has(index)) {
    also = new Set();
  }
  chosen = index;
  drag = { pointer: event.pointerId, points: all, start: all, at, from: all[index], leaving: false };
  show();
});

document.addEventListener("pointermove", (event) => {
  if (drag?.pointer !== event.pointerId) return;
  const at = within(event);
  if (drag.box) {
    const [x0, x1] = [drag.box.x, at.x].toSorted((a, b) => a - b);
    const [y0, y1] = [drag.box.y, at.y].toSorted((a, b) => a - b);
    const inside = ([x, y]) => x * WIDTH >= x0 && x * WIDTH <= x1 && (1 - y) * HEIGHT >= y0 && (1 - y) * HEIGHT <= y1;
    also = new Set(drag.points.flatMap((point, i) => (inside(point) ? [i] : [])));
    if (also.size) [chosen] = also;
    svg().querySelector(".box").setAttribute("d", `M${x0} ${y0}H${x1}V${y1}H${x0}Z`);
    drawPoints();
    return;
  }
  const off = Math.max(-at.x, at.x - WIDTH, -at.y, at.y - HEIGHT);
  const which = picked(drag.start);
  drag.leaving = off > OFF && drag.start.length - which.length >= 2;
  const [x, y] = which.length > 1 ? [(at.x - drag.at.x) / WIDTH, (drag.at.y - at.y) / HEIGHT] : [at.x / WIDTH - drag.from[0], 1 - at.y / HEIGHT - drag.from[1]];
  drag.points = moved(drag.start, which, x, y);
  show();
});

function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { leaving, points: all, box } = drag;
  if (box) {
    drag = null;
    svg().querySelector(".box").setAttribute("d", "");
    return;
  }
  const which = picked(all);
  if (leaving) also = new Set();
  keep(leaving ? without(all, which) : all);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

const NUDGES = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

function choose(by, extend) {
  if (extend) also.add(chosen);
  else also = new Set();
  chosen = clamp(chosen + by, 0, kept().length - 1);
  if (extend) also.add(chosen);
  drawPoints();
}

function byKey(event) {
  const all = kept();
  const { key, shiftKey, altKey } = event;
  if (NUDGES[key]) {
    const step = shiftKey ? 0.05 : altKey ? 0.001 : 0.005;
    const [dx, dy] = NUDGES[key];
    keep(moved(all, picked(all), dx * step, dy * step));
  } else if (key === "PageUp" || key === "PageDown") {
    choose(key === "PageUp" ? 1 : -1, shiftKey);
  } else if (key === "Delete" || key === "Backspace") {
    const which = picked(all);
    also = new Set();
    keep(without(all, which));
  } else if (key === "Escape" && also.size) {
    also = new Set();
    drawPoints();
  } else if (key === "Enter") {
    const next = Math.min(chosen + 1, all.length - 1);
    const made = added(all, (all[next - 1][0] + all[next][0]) / 2, (all[next - 1][1] + all[next][1]) / 2);
    if (made) { chosen = made.index; keep(made.points); }
  } else {
    return false;
  }
  return true;
}

document.addEventListener("keydown", (event) => {
  if (!event.target.closest?.("#curve")) return;
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== "a") return;
    also = new Set(kept().keys());
    drawPoints();
  } else if (!byKey(event)) {
    return;
  }
  event.preventDefault();
  event.stopPropagation();
}, true);

document.addEventListener("change", (event) => {
  const { id, value } = event.target;
  if (id === "point-in" || id === "point-out") {
    const [x, y] = ["#point-in", "#point-out"].map((name) => Number(document.querySelector(name).value) / 100);
    const all = kept();
    if (Number.isFinite(x) && Number.isFinite(y)) keep(moved(all, [chosen], x - all[chosen][0], y - all[chosen][1]));
  } else if (id === "curve-shape" && value) {
    also = new Set();
    session.set("settings.points", JSON.parse(value));
    event.target.value = "";
  }
});

document.addEventListener("click", (event) => {
  if (event.target.id === "curve-reset") {
    [chosen, also] = [0, new Set()];
    keep(STRAIGHT);
  }
  const mend = event.target.closest?.("[data-mend]");
  if (mend) {
    const { low, high } = JSON.parse(mend.dataset.mend);
    session.ask("mend", { layer: session.chosen, channel: channel(), low, high });
  }
});

document.addEventListener("tab", (event) => {
  if (event.detail !== "curves") return;
  if (shownChannel !== channel()) also = new Set();
  shownChannel = channel();
  drawCurve();
  document.dispatchEvent(new Event("histograms"));
});
session.addEventListener("draft", ({ detail }) => {
  if (!Object.keys(detail.curves ?? {}).length) return;
  drawCurve(detail.curves);
  drawMarks(channel(), detail.curves, { faults: detail.faults });
});

export { channel };
