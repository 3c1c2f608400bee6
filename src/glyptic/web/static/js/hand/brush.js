/** The brush: its measures (one set for masks, one for grey layers), its side, and what it would do in words. */

import { clamp } from "../core/dom.js";
import { keep, recall } from "../core/store.js";
import { sentenceOf } from "./sentence.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ size: number, hardness: number, opacity: number, flow: number, side: number | "even" }} Measures
 */

const STORED = "glyptic-brush";
/** Hands that draw parts of masks, whatever the layer. */
export const DRAWS = ["ramp", "oval", "outline", "region"];
export const WORDS = {
  mask: { 1: "Show", 0: "Hide" },
  region: { 1: "Belongs", 0: "Does not" },
  grey: { 1: "Lighten", 0: "Darken", even: "Even", 0.5: "Neutral" },
};
const GROWS = 1.12;

/** @param {KeyboardEvent} event */
const way = (event) => (event.key === "ArrowUp" || event.key === "ArrowRight" ? 1 : -1);

export class Brush extends EventTarget {
  hand = "move";
  /** @type {"mask" | "grey"} */
  on = "mask";

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.bench = bench;
    this.declared = bench.declared.brush;
    const { start } = this.declared;
    const stored = recall(STORED, { ...start, presets: {} });
    /** @type {{ mask: Measures, grey: Measures }} */
    this.sets = { mask: { ...start.mask, ...stored.mask }, grey: { ...start.grey, ...stored.grey } };
    /** @type {Record<string, Omit<Measures, "side">>} */
    this.presets = stored.presets ?? {};
    this.on = bench.session.state.target.grey ? "grey" : "mask";
    bench.session.addEventListener("state", (event) => this.#follow(/** @type {CustomEvent} */ (event).detail.before));
    this.#bindKeys();
  }

  /** Another layer is chosen: on a grey one the grey is painted. @param {import("../core/declared").PageState} before */
  #follow(before) {
    const { session, picks } = this.bench;
    if (this.hand === "pick" && !picks.inHand) this.hand = "move";
    if (before.chosen !== session.chosen) this.on = session.state.target.grey ? "grey" : "mask";
    this.dispatchEvent(new Event("change"));
  }

  #bindKeys() {
    const { keys } = this.bench;
    keys.bind("brush-up-down", (event) => this.change(event.shiftKey ? { hardness: this.set.hardness + way(event) * 0.05 } : { size: this.#grown(way(event)) }));
    keys.bind("brush-left-right", (event) => this.change(event.shiftKey ? { flow: this.set.flow + way(event) * 0.05 } : { opacity: this.set.opacity + way(event) * 0.05 }));
    keys.bind("side", () => this.change({ side: this.set.side === 1 ? 0 : 1 }));
  }

  /** @param {number} by */
  #grown(by) {
    const { size } = this.set;
    return by > 0 ? Math.max(size + 1, Math.round(size * GROWS)) : Math.min(size - 1, Math.round(size / GROWS));
  }

  get set() { return this.sets[this.target ?? "mask"]; }

  /** 'grey', 'mask', or null where there is nothing to paint on. @returns {"grey" | "mask" | null} */
  get target() {
    const { grey, mask } = this.bench.session.state.target;
    if (grey && this.on === "grey" && !DRAWS.includes(this.hand)) return "grey";
    return mask ? "mask" : null;
  }

  /** The words for the sides of what is painted on now, by side. @returns {Record<string, string>} */
  get sides() { return this.hand === "region" ? WORDS.region : WORDS[this.target ?? "mask"]; }

  /** @param {Partial<Measures>} values */
  change(values) {
    Object.assign(this.set, values);
    this.set.size = clamp(this.set.size, 1, this.declared.largest);
    for (const name of /** @type {const} */ (["hardness", "opacity", "flow"])) this.set[name] = clamp(this.set[name], name === "hardness" ? 0 : 0.01, 1);
    this.#keep();
  }

  /** Keep the measures in the hand under a name; use those kept, or forget them. @param {string} preset */
  name(preset) {
    const { size, hardness, opacity, flow } = this.set;
    this.presets[preset] = { size, hardness, opacity, flow };
    this.#keep();
  }

  /** @param {string} preset */
  use(preset) { if (this.presets[preset]) this.change(this.presets[preset]); }

  /** @param {string} preset */
  forget(preset) {
    delete this.presets[preset];
    this.#keep();
  }

  /** Take a hand. @param {string} hand */
  take(hand) {
    this.hand = hand;
    this.#keep();
  }

  /** Paint on the grey, or on the mask. @param {"mask" | "grey"} on */
  paintOn(on) {
    this.on = on;
    this.#keep();
  }

  #keep() {
    keep(STORED, { ...this.sets, presets: this.presets });
    this.dispatchEvent(new Event("change"));
  }

  /** The stroke's head as the stack file writes it. @param {boolean} isPen */
  head(isPen) {
    const { size, hardness, opacity, flow, side } = this.set;
    const { evened, spacing } = this.declared;
    const deed = side === "even" ? { even: Math.max(evened.least, Math.round(size * evened.share)) } : { to: Number(side) };
    return { ...deed, size, hardness, opacity, flow, spacing, ...this.bench.pen.drivesFor(isPen) };
  }

  /** What the chip needs to know, or nothing while no brush is in the hand. */
  get forChip() {
    if (this.hand !== "paint" || !this.target || this.set.side === "even") return undefined;
    return { target: this.target, to: this.set.side, opacity: this.set.opacity };
  }

  /** Which of the layer's own shapes the hand draws now, where the desk shows the layer's settings; '' for none. */
  get ownShape() {
    const own = { ramp: "gradient", oval: "vignette" }[this.hand];
    const { session, desk } = this.bench;
    return own === session.state.target.kind && desk.leaf !== "mask" ? own : "";
  }

  sentence() { return sentenceOf(this.bench); }
}
