/** The brush: its measures (one set for masks, one for grey layers), its side, and what it would do in words. */

import { fillBars } from "./bars.js";
import { pen } from "./pen.js";
import "./pen_panel.js";
import { pickInHand } from "./picks.js";
import { session } from "./session.js";
import { keep, recall } from "./store.js";

const STORED = "glyptic-brush";
const LARGEST = 4000;
const START = {
  mask: { size: 240, hardness: 0, opacity: 1, flow: 0.5, side: 1 },
  grey: { size: 240, hardness: 0, opacity: 0.1, flow: 0.5, side: 1 },
};
const WORDS = {
  mask: { 1: "Show", 0: "Hide" },
  region: { 1: "Belongs", 0: "Does not" },
  grey: { 1: "Lighten", 0: "Darken", even: "Even", 0.5: "Neutral" },
};
const DOES = { Neutral: "Makes neutral by", Even: "Evens the painting out by" };
const EVENED = 0.12;
/** Hands that draw parts of masks, whatever the layer. */
const DRAWS = ["ramp", "oval", "outline", "region"];

class Brush extends EventTarget {
  hand = "move";
  on = "mask";

  constructor() {
    super();
    const stored = recall(STORED, { ...START, presets: {} });
    this.sets = { mask: { ...START.mask, ...stored.mask }, grey: { ...START.grey, ...stored.grey } };
    this.presets = stored.presets ?? {};
  }

  get set() { return this.sets[this.target ?? "mask"]; }

  /** 'grey', 'mask', or null where there is nothing to paint on. */
  get target() {
    const { grey, mask } = session.state.target;
    if (grey && this.on === "grey" && !DRAWS.includes(this.hand)) return "grey";
    return mask ? "mask" : null;
  }

  get sideWord() { return WORDS[this.target ?? "mask"][this.set.side]; }

  change(values) {
    Object.assign(this.set, values);
    this.set.size = Math.min(LARGEST, Math.max(1, this.set.size));
    for (const name of ["hardness", "opacity", "flow"]) this.set[name] = Math.min(1, Math.max(name === "hardness" ? 0 : 0.01, this.set[name]));
    this.#keep();
  }

  /** Keep the measures in the hand under a name; use those kept, or forget them. */
  name(preset) {
    const { size, hardness, opacity, flow } = this.set;
    this.presets[preset] = { size, hardness, opacity, flow };
    this.#keep();
  }

  use(preset) { if (this.presets[preset]) this.change(this.presets[preset]); }

  forget(preset) {
    delete this.presets[preset];
    this.#keep();
  }

  take(hand) {
    this.hand = hand;
    this.#keep();
  }

  #keep() {
    keep(STORED, { ...this.sets, presets: this.presets });
    this.dispatchEvent(new Event("change"));
  }

  /** The stroke's head as the stack file writes it. */
  head(isPen) {
    const { size, hardness, opacity, flow, side } = this.set;
    const deed = side === "even" ? { even: Math.max(1, Math.round(size * EVENED)) } : { to: Number(side) };
    return { ...deed, size, hardness, opacity, flow, spacing: 0.1, ...pen.drivesFor(isPen) };
  }

  /** What the chip needs to know, or nothing while no brush is in the hand. */
  get forChip() {
    if (this.hand !== "paint" || !this.target || this.set.side === "even") return undefined;
    return { target: this.target, to: this.set.side, opacity: this.set.opacity };
  }

  /** [the deed, where]: what the hand would do now, in words. */
  sentence() {
    const { target } = session.state;
    const where = this.target === "grey" ? `on ‘${target.name}’, everywhere` : `on the mask of ‘${target.name}’`;
    if (this.hand === "move") return ["Moves the picture;", "the wheel zooms at the pointer"];
    if (this.hand === "pick") {
      const pick = pickInHand();
      return pick ? [`${pick.title}:`, `${pick.help.charAt(0).toLowerCase()}${pick.help.slice(1)}`] : ["Nothing to pick:", `‘${target.name}’ is not set by pressing on the picture`];
    }
    const shaped = { ramp: "gradient", oval: "vignette" }[this.hand];
    if (shaped && target.kind === shaped) return [`Draws the ${shaped}`, `of ‘${target.name}’ anew`];
    if (!target.mask) return ["Nothing to paint on:", target.why || "choose a grey layer or a mask"];
    if (this.hand === "shift") return ["Drag to shift the mask", `of ‘${target.name}’; arrow keys by a pixel, with Shift by ten`];
    const off = target.off ? " (it is off)" : "";
    if (this.hand === "paint") {
      const fresh = this.target === "mask" && !target.masked ? `on a new mask of ‘${target.name}’` : where;
      return [`${DOES[this.sideWord] ?? `${this.sideWord}s`} ${Math.round(this.set.opacity * 100)} %`, fresh + off];
    }
    const verb = this.sets.mask.side ? "shows" : "hides";
    if (this.hand === "region") {
      const belongs = this.sets.mask.side === 1;
      return [belongs ? "Scribble on what belongs (Alt: on what does not);" : "Scribble on what does not belong;", `the region grows to the edges on the mask of ‘${target.name}’${off}`];
    }
    if (this.hand === "outline") return [`Drag around an area, or set corners and press the start, that it ${verb}`, `on the mask of ‘${target.name}’${off}`];
    return [`Draws ${this.hand === "ramp" ? "a ramp" : "an oval"} that ${verb}`, `on the mask of ‘${target.name}’${off}`];
  }
}

export const brush = new Brush();

const toDial = (size) => (Math.log(size) / Math.log(LARGEST)) * 100;
const fromDial = (value) => Math.max(1, Math.round(LARGEST ** (value / 100)));
const bar = document.querySelector("#hand");
const check = (selector, test) => {
  for (const button of bar.querySelectorAll(selector)) button.setAttribute("aria-checked", String(test(button.dataset)));
};

/** Bring the hand bar in line with the brush and the state. */
export function showHand() {
  const { target } = session.state;
  check("[data-hand]", (d) => d.hand === brush.hand);
  bar.querySelector('[data-hand="pick"]').hidden = !pickInHand();
  check("[data-on]", (d) => d.on === brush.on);
  const brushing = brush.hand === "paint";
  for (const dial of bar.querySelectorAll(".dial, .pressure")) dial.hidden = !brushing;
  bar.querySelector("#sides").hidden = !["paint", ...DRAWS].includes(brush.hand);
  bar.querySelector("#paint-on").hidden = !(target.grey && brush.hand === "paint");
  check("[data-side]", (d) => d.side === String(brush.set.side));
  for (const button of bar.querySelectorAll("[data-side]")) {
    const word = (brush.hand === "region" ? WORDS.region : WORDS[brush.target ?? "mask"])[button.dataset.side];
    button.hidden = !word;
    button.textContent = word ?? "";
  }
  const { size, hardness, opacity, flow } = brush.set;
  const shown = { size: [toDial(size), Math.round(size)], hardness: [hardness * 100, Math.round(hardness * 100)], opacity: [opacity * 100, Math.round(opacity * 100)], flow: [flow * 100, Math.round(flow * 100)] };
  for (const [name, [dial, number]] of Object.entries(shown)) {
    bar.querySelector(`[data-dial="${name}"]`).value = dial;
    const input = bar.querySelector(`[data-dial-number="${name}"]`);
    if (document.activeElement !== input) input.value = number;
  }
  const names = Object.keys(brush.presets);
  bar.querySelector("#presets").replaceChildren(...["", ...names].map((name) => Object.assign(document.createElement("option"), { value: name, textContent: name || (names.length ? "use …" : "none kept yet") })));
  const [deed, where] = brush.sentence();
  const place = document.createElement("em");
  place.textContent = where;
  const does = bar.querySelector("#does");
  does.replaceChildren(`${deed} `, place);
  does.title = `${deed} ${where}`;
  does.classList.toggle("idle", brush.hand === "move" || !target.mask);
  fillBars(bar);
}

bar.addEventListener("click", (event) => {
  const field = bar.querySelector("#preset-name");
  if (event.target.closest("#preset-keep") && field.value.trim()) {
    brush.name(field.value.trim().slice(0, 40));
    field.value = "";
  }
  if (event.target.closest("#preset-forget") && field.value.trim()) brush.forget(field.value.trim());
  const { hand, on, side } = event.target.closest("button")?.dataset ?? {};
  if (hand) brush.take(hand);
  if (on) { brush.on = on; brush.take(brush.hand); }
  if (side) brush.change({ side: side === "even" ? side : Number(side) });
});
bar.addEventListener("input", (event) => {
  const { dial } = event.target.dataset;
  const value = Number(event.target.value);
  if (dial) brush.change({ [dial]: dial === "size" ? fromDial(value) : value / 100 });
});
bar.addEventListener("change", (event) => {
  if (event.target.id === "presets") brush.use(event.target.value);
  const name = event.target.dataset.dialNumber;
  const value = Number(event.target.value);
  if (name && event.target.value !== "" && Number.isFinite(value)) brush.change({ [name]: name === "size" ? value : value / 100 });
});
brush.addEventListener("change", showHand);
pen.addEventListener("change", showHand);
session.addEventListener("state", ({ detail: { before } }) => {
  if (brush.hand === "pick" && !pickInHand()) brush.take("move");
  if (before.chosen !== session.state.chosen) brush.on = session.state.target.grey ? "grey" : "mask";
  showHand();
});
brush.on = session.state.target.grey ? "grey" : "mask";
