/** A range of tone over the histogram: where it begins and ends, and how softly; shown live while it is dragged. */

import { mirror } from "./controls.js";
import { element } from "./drawing.js";
import { session } from "./session.js";

const WIDTH = 276;
const HEIGHT = 56;
const HANDLE_Y = 60;
const SIZE = 5;
const STEPS = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };
const NAMES = { soft_low: "Fades out to", low: "Whole from", high: "Whole to", soft_high: "Fades out from" };

let drag = null;
let keyed = null;

const clamp = (v, low = 0, high = 1) => Math.min(high, Math.max(low, v));
const tidy = (v) => Number(v.toFixed(3));
const input = (field) => document.querySelector(`#desk input[type="number"][data-field="${CSS.escape(field)}"]`);
const read = (field) => Number(input(field).value) / Number(input(field).dataset.factor || 1);
const valuesOf = (box) => Object.fromEntries(Object.keys(NAMES).map((name) => [name, read(`${box.dataset.window}.${name}`)]));
const places = (v) => ({ soft_low: v.low - v.soft_low, low: v.low, high: v.high, soft_high: v.high + v.soft_high });

/** The setting that puts a handle at a place. */
function valueAt(name, x, v) {
  if (name === "low") return clamp(x, 0, v.high);
  if (name === "high") return clamp(x, v.low, 1);
  return name === "soft_low" ? clamp(v.low - x) : clamp(x - v.high);
}

function drawOne(box, v) {
  const at = Object.fromEntries(Object.entries(places(v)).map(([name, x]) => [name, clamp(x) * WIDTH]));
  box.querySelector(".shown").setAttribute("d", `M${at.soft_low} ${HEIGHT}L${at.low} 4H${at.high}L${at.soft_high} ${HEIGHT}Z`);
  const marks = Object.keys(NAMES).map((name) => element("path", {
    d: name.startsWith("soft") ? `M${at[name]} ${HANDLE_Y - SIZE}l${SIZE} ${2 * SIZE}h${-2 * SIZE}z` : `M${at[name] - SIZE} ${4 - SIZE / 2}h${2 * SIZE}v${SIZE * 1.6}h${-2 * SIZE}z`,
    class: `handle ${name}`, "data-edge": name, tabindex: 0, role: "slider", "aria-label": NAMES[name], "aria-valuenow": tidy(clamp(places(v)[name])),
  }));
  const held = document.activeElement?.dataset?.edge ?? (document.activeElement === document.body ? keyed : null);
  box.querySelector(".handles").replaceChildren(...marks);
  if (held && box.contains(drag?.box ?? box)) box.querySelector(`[data-edge="${held}"]`)?.focus();
}

export function drawWindows() {
  for (const box of document.querySelectorAll("#desk [data-window]")) drawOne(box, valuesOf(box));
}

function across(box, event) {
  const { left, width } = box.querySelector("svg").getBoundingClientRect();
  return (((event.clientX - left) * 288) / width - 6) / WIDTH;
}

function put(box, name, value) {
  const field = `${box.dataset.window}.${name}`;
  input(field).value = tidy(value * Number(input(field).dataset.factor || 1));
  mirror(input(field));
  drawOne(box, valuesOf(box));
  return field;
}

document.addEventListener("pointerdown", (event) => {
  const name = event.target.dataset?.edge;
  const box = event.target.closest?.("[data-window]");
  if (!name || event.button !== 0) return;
  event.preventDefault();
  box.querySelector("svg").setPointerCapture(event.pointerId);
  const v = valuesOf(box);
  drag = { pointer: event.pointerId, box, name, off: clamp(places(v)[name]) - across(box, event), value: v[name] };
});
document.addEventListener("pointermove", (event) => {
  if (drag?.pointer !== event.pointerId) return;
  const { box, name, off } = drag;
  drag.value = tidy(valueAt(name, across(box, event) + off, valuesOf(box)));
  session.draftSet(put(box, name, drag.value), drag.value);
});
function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { box, name, value } = drag;
  drag = null;
  session.set(`${box.dataset.window}.${name}`, value);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

document.addEventListener("keydown", (event) => {
  const name = event.target.dataset?.edge;
  const step = STEPS[event.key];
  if (!name || !step || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  event.stopPropagation();
  keyed = name;
  const box = event.target.closest("[data-window]");
  const v = valuesOf(box);
  session.set(`${box.dataset.window}.${name}`, tidy(valueAt(name, places(v)[name] + step * (event.shiftKey ? 0.05 : 0.01), v)));
}, true);
document.addEventListener("focusin", ({ target }) => { if (target.dataset.edge !== keyed) keyed = null; });

document.addEventListener("click", ({ target }) => {
  const preset = target.closest?.("#desk [data-window-preset]");
  if (preset) session.set(preset.closest("[data-window]").dataset.window, JSON.parse(preset.dataset.windowPreset));
});
document.addEventListener("input", ({ target }) => { if (!drag && target.closest?.("#desk")) drawWindows(); });
