/** Levels: handles under the histogram for black, midtone and white, and for the two ends that come out. */

import { currentTab, mirror } from "./controls.js";
import { element } from "./drawing.js";
import { session } from "./session.js";

const WIDTH = 276;
const IN_Y = 72;
const OUT_Y = 92;
const HANDLE = 6;
const LEAST_APART = 0.01;
const NAMES = { black: "Black", gamma: "Midtone", white: "White", out_black: "Out black", out_white: "Out white" };

let drag = null;
/** The handle that is worked by keys: it gets the focus back when the desk was drawn anew. */
let keyed = null;

const svg = () => document.querySelector("#levels");
const channel = () => currentTab("levels") ?? "rgb";
const clamp = (v, low, high) => Math.min(high, Math.max(low, v));
const input = (name) => document.querySelector(`#desk input[type="number"][data-field="settings.${channel()}.${name}"]`);

const read = (name) => Number(input(name).value) / Number(input(name).dataset.factor || 1);

function values() {
  return Object.fromEntries(Object.keys(NAMES).map((name) => [name, read(name)]));
}

/** Where each handle stands, 0..1 across. The midtone's is the value that comes out half way. */
function places(v) {
  return { black: v.black, gamma: v.black + (v.white - v.black) * 0.5 ** v.gamma, white: v.white, out_black: v.out_black, out_white: v.out_white };
}

/** The setting that puts a handle at a place. */
function valueAt(name, x, v) {
  if (name === "black") return Math.min(x, v.white - LEAST_APART);
  if (name === "white") return Math.max(x, v.black + LEAST_APART);
  if (name !== "gamma") return clamp(x, 0, 1);
  const inside = clamp((x - v.black) / (v.white - v.black), 0.001, 0.999);
  return clamp(Math.log(inside) / Math.log(0.5), 0.1, 10);
}

/** A lozenge on its line; the handles that go in have a hairline up through the histogram. */
const shape = (x, y, up) => `M${x} ${y - HANDLE}l${HANDLE} ${HANDLE} -${HANDLE} ${HANDLE} -${HANDLE} -${HANDLE}z${up ? `M${x} ${y - HANDLE}V0` : ""}`;

export function drawLevels(now) {
  if (!svg()) return;
  const v = now ?? values();
  const at = places(v);
  const marks = Object.entries(at).map(([name, share]) => {
    const x = clamp(share, 0, 1) * WIDTH;
    const made = element("path", {
      d: shape(x, name.startsWith("out") ? OUT_Y : IN_Y, !name.startsWith("out")), class: `handle ${name}`, "data-handle": name, tabindex: 0, role: "slider",
      "aria-label": NAMES[name], "aria-valuenow": v[name].toFixed(3),
    });
    return made;
  });
  const inHand = document.activeElement?.dataset?.handle;
  const held = inHand ?? (document.activeElement === document.body ? keyed : null);
  svg().querySelector(".handles").replaceChildren(...marks);
  if (held) svg().querySelector(`[data-handle="${held}"]`)?.focus();
  svg().querySelector(".ends-line").setAttribute("d", `M${at.out_black * WIDTH} ${OUT_Y}H${at.out_white * WIDTH}`);
}

/** Whether only what clips is to be shown while a handle is dragged. */
const viewWhile = (name) => (["black", "white"].includes(name) && document.querySelector("#only-clipped")?.checked ? "only-clipped" : undefined);

function across(event) {
  const box = svg().getBoundingClientRect();
  return (((event.clientX - box.left) * 288) / box.width - 6) / WIDTH;
}

const tidy = (v) => Number(v.toFixed(4));

function change(name, x) {
  const v = values();
  v[name] = tidy(valueAt(name, x, v));
  drag.value = v[name];
  input(name).value = tidy(v[name] * Number(input(name).dataset.factor || 1));
  mirror(input(name));
  drawLevels(v);
  session.draft("set", { layer: session.chosen, field: `settings.${channel()}.${name}`, value: v[name] }, viewWhile(name));
}

document.addEventListener("pointerdown", (event) => {
  const name = event.target.dataset?.handle;
  if (!name || event.button !== 0 || !svg()) return;
  event.preventDefault();
  svg().setPointerCapture(event.pointerId);
  event.target.focus();
  drag = { pointer: event.pointerId, name, off: places(values())[name] - across(event), value: values()[name] };
  change(name, across(event) + drag.off);
});
document.addEventListener("pointermove", (event) => {
  if (drag?.pointer === event.pointerId) change(drag.name, across(event) + drag.off);
});
function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { name, value } = drag;
  drag = null;
  session.set(`settings.${channel()}.${name}`, value);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

const STEPS = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };

document.addEventListener("keydown", (event) => {
  const name = event.target.dataset?.handle;
  const step = STEPS[event.key];
  if (!name || !step || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  event.stopPropagation();
  keyed = name;
  const v = values();
  const value = tidy(valueAt(name, places(v)[name] + step * (event.shiftKey ? 0.02 : 0.002), v));
  session.set(`settings.${channel()}.${name}`, value);
}, true);

document.addEventListener("focusin", ({ target }) => { if (target.dataset.handle !== keyed) keyed = null; });

document.addEventListener("tab", ({ detail }) => {
  if (detail !== "levels") return;
  drawLevels();
  document.dispatchEvent(new Event("histograms"));
});
document.addEventListener("input", (event) => {
  if (!drag && svg() && event.target.closest?.("#desk [data-panel]")) drawLevels();
});
