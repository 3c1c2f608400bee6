/** Handles on the picture for what was drawn: the part of a mask that is open on the desk, or the layer's own gradient or
 * vignette. */

import { element } from "./drawing.js";
import { session } from "./session.js";

const { canvas } = session;
const layer = document.querySelector("#handles");
const GRIP = 5;
const FAR = 26;
const LEAST = 1;

let shown = null;
let values = null;

const tidy = (v) => Number(v.toFixed(2));
const turned = ([x, y], degrees) => {
  const angle = (degrees * Math.PI) / 180;
  return [x * Math.cos(angle) - y * Math.sin(angle), x * Math.sin(angle) + y * Math.cos(angle)];
};
const plus = (a, b) => [a[0] + b[0], a[1] + b[1]];
const minus = (a, b) => [a[0] - b[0], a[1] - b[1]];
const perStage = () => canvas.density / canvas.scale;

/** For each shape its handles: where they are, and what a drag to `at` makes of the setting they stand for. */
const HANDLES = {
  ramp: (v) => ["from", "to"].map((name) => ({ name, title: name === "from" ? "full" : "none", at: v[name], to: (at) => at })),
  oval: (v) => [
    { name: "centre", title: "middle", at: v.centre, to: (at) => at },
    { name: "radii", title: "width", at: plus(v.centre, turned([v.radii[0], 0], v.rotation)), to: (at) => [Math.max(LEAST, Math.hypot(...minus(at, v.centre))), v.radii[1]] },
    { name: "radii", title: "height", at: plus(v.centre, turned([0, v.radii[1]], v.rotation)), to: (at) => [v.radii[0], Math.max(LEAST, Math.hypot(...minus(at, v.centre)))] },
    { name: "rotation", title: "turn", at: plus(v.centre, turned([v.radii[0] + FAR * perStage(), 0], v.rotation)), to: (at) => (Math.atan2(at[1] - v.centre[1], at[0] - v.centre[0]) * 180) / Math.PI },
  ],
  outline: (v) => v.points.map((at, i) => ({ name: "points", title: `corner ${i + 1}`, at, to: (now) => v.points.with(i, now) })),
};

const LINES = {
  ramp: (v, s) => `M${s(v.from)}L${s(v.to)}`,
  oval: (v, s) => {
    const places = Array.from({ length: 49 }, (_, i) => turned([v.radii[0] * Math.cos((i * Math.PI) / 24), v.radii[1] * Math.sin((i * Math.PI) / 24)], v.rotation));
    return `M${places.map((p) => s(plus(v.centre, p))).join("L")}Z`;
  },
  outline: (v, s) => `M${v.points.map(s).join("L")}Z`,
};

const onStage = ([x, y]) => {
  const p = canvas.onStage(x, y);
  return `${p.x.toFixed(1)} ${p.y.toFixed(1)}`;
};

/** What is to have handles now: the open part, or the layer's own shape. */
function wanted() {
  const open = document.querySelector("#desk .part details[open]")?.closest("[data-part]")?.dataset.part;
  const shapes = session.state.shapes ?? [];
  return shapes.find(({ part }) => String(part) === open) ?? shapes.find(({ part }) => part === null) ?? null;
}

/** Draw the handles anew. */
export function drawHandles(away = false) {
  shown = away ? null : wanted();
  layer.replaceChildren();
  if (!shown) return;
  const v = values ?? shown.values;
  layer.append(element("path", { class: "drawn faint", d: LINES[shown.shape](v, onStage) }));
  HANDLES[shown.shape](v).forEach((handle, i) => {
    const { x, y } = canvas.onStage(...handle.at);
    const mark = element("path", { class: "grip", d: `M${x} ${y - GRIP}l${GRIP} ${GRIP} -${GRIP} ${GRIP} -${GRIP} -${GRIP}z`, "data-grip": i });
    const title = element("title", {});
    title.textContent = handle.title;
    mark.append(title);
    layer.append(mark);
  });
}

/** The deed of a press on a handle: live while it is dragged, one step when it is let go. */
export class Gripping {
  constructor(event) {
    this.grip = Number(event.target.dataset.grip);
    this.shape = shown;
    this.edit = null;
  }

  move(event) {
    const now = canvas.at(event);
    const { name, to } = HANDLES[this.shape.shape](this.shape.values)[this.grip];
    const value = to([now.x, now.y]);
    const plain = Array.isArray(value) ? value.map((v) => (Array.isArray(v) ? v.map(tidy) : tidy(v))) : tidy(value);
    values = { ...this.shape.values, [name]: plain };
    this.edit = ["set", { layer: session.chosen, field: `${this.shape.field}.${name}`, value: plain }];
    drawHandles();
    session.draft(...this.edit);
  }

  async end() {
    if (this.edit) await session.edit(...this.edit);
    values = null;
    drawHandles();
  }

  giveUp() {
    values = null;
    drawHandles();
    session.giveUpDraft();
  }
}

canvas.addEventListener("moved", () => { if (shown) drawHandles(); });
document.addEventListener("toggle", (event) => { if (event.target.closest?.("#desk .part")) drawHandles(); }, true);
