/** The curve of a mask: points that are dragged, added by a press on the line, taken away with Delete. */

import { element } from "./drawing.js";
import { session } from "./session.js";

const WIDTH = 276;
const HEIGHT = 96;
const NEAR = 9;
const LEAST_APART = 0.02;
const MOST = 32;

let drag = null;
let keyed = -1;

const svg = () => document.querySelector("#mask-curve");
const clamp = (v) => Math.min(1, Math.max(0, v));
const tidy = (v) => Number(v.toFixed(3));
const pointsNow = () => drag?.points ?? JSON.parse(svg().dataset.points);

export function drawMaskCurve() {
  if (!svg()) return;
  const points = pointsNow();
  const marks = points.map(([x, y], i) => element("rect", {
    x: x * WIDTH - 4, y: (1 - y) * HEIGHT - 4, width: 8, height: 8, class: "point", "data-point": i, tabindex: 0, role: "slider",
    "aria-label": `Point ${i + 1} of the mask's curve`, "aria-valuenow": y, "aria-valuetext": `${Math.round(x * 100)} % becomes ${Math.round(y * 100)} %`,
  }));
  svg().querySelector(".points").replaceChildren(...marks);
  if (keyed >= 0 && document.activeElement === document.body) marks[Math.min(keyed, marks.length - 1)]?.focus();
}

const edit = (points) => ["set", { layer: session.chosen, field: "mask.curve", value: points }];

/** A point moved, kept between its neighbours. */
function moved(points, i, x, y) {
  const low = i ? points[i - 1][0] + LEAST_APART : 0;
  const high = i < points.length - 1 ? points[i + 1][0] - LEAST_APART : 1;
  return points.with(i, [tidy(Math.min(high, Math.max(low, x))), tidy(clamp(y))]);
}

function at(event) {
  const box = svg().getBoundingClientRect();
  return [clamp((event.clientX - box.left) / box.width), clamp(1 - (event.clientY - box.top) / box.height)];
}

document.addEventListener("pointerdown", (event) => {
  if (event.button !== 0 || !event.target.closest?.("#mask-curve")) return;
  event.preventDefault();
  const [x, y] = at(event);
  let points = pointsNow();
  let index = points.findIndex(([px, py]) => Math.abs(px - x) * WIDTH <= NEAR && Math.abs(py - y) * HEIGHT <= NEAR);
  if (index < 0) {
    if (points.length >= MOST || points.some(([px]) => Math.abs(px - x) < LEAST_APART)) return;
    points = [...points, [tidy(x), tidy(y)]].toSorted((a, b) => a[0] - b[0]);
    index = points.findIndex(([px]) => px === tidy(x));
  }
  svg().setPointerCapture(event.pointerId);
  drag = { pointer: event.pointerId, index, points };
  keyed = index;
  drawMaskCurve();
});
document.addEventListener("pointermove", (event) => {
  if (drag?.pointer !== event.pointerId) return;
  drag.points = moved(drag.points, drag.index, ...at(event));
  drawMaskCurve();
  session.draft(...edit(drag.points));
});
function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { points } = drag;
  svg().dataset.points = JSON.stringify(points);
  drag = null;
  session.edit(...edit(points));
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowDown: [0, -1], ArrowUp: [0, 1] };

document.addEventListener("keydown", (event) => {
  const index = Number(event.target.dataset?.point ?? -1);
  if (index < 0 || event.ctrlKey || event.metaKey) return;
  const points = pointsNow();
  const step = STEPS[event.key];
  const gone = event.key === "Delete" && points.length > 2;
  if (!step && event.key !== "Delete") return;
  event.preventDefault();
  event.stopPropagation();
  keyed = index;
  const by = event.shiftKey ? 0.05 : 0.01;
  if (step) session.edit(...edit(moved(points, index, points[index][0] + step[0] * by, points[index][1] + step[1] * by)));
  else if (gone) session.edit(...edit(points.toSpliced(index, 1)));
}, true);
document.addEventListener("focusin", ({ target }) => { if (Number(target.dataset.point ?? -1) !== keyed) keyed = -1; });
