/** The desk's controls: each names the field it sets; dragging shows, letting go keeps. */

import { all, find } from "../core/dom.js";
import { say } from "../core/says.js";
import { numberOf, written } from "../core/sums.js";
import { fillBars } from "./bars.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const NEUTRAL_WINDOW = { low: 0, high: 1 };
/** Fields that several chosen cards take on together. */
const TOGETHER = new Set(["opacity", "blend", "locked"]);

/** @param {string} hex */
export const rgb = (hex) => [1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255);

/** How each sort of control is read; undefined for a value that is not whole yet. @type {Record<string, (control: any) => unknown>} */
const READ = {
  number: (input) => {
    const value = input.type === "range" ? Number(input.value) : numberOf(input.value);
    return value === null ? undefined : value / Number(input.dataset.factor || 1);
  },
  text: (input) => input.value,
  toggle: (input) => input.checked,
  pressed: (button) => button.getAttribute("aria-pressed") !== "true",
  nullable: (input) => (input.checked ? NEUTRAL_WINDOW : null),
  colour: (input) => rgb(input.value),
  pair: (box) => all(box, "input", HTMLInputElement).map((input) => numberOf(input.value) ?? Number.NaN),
};

/** Bring the other control of the same setting in line: the bar with the number, or the number with the bar. @param {HTMLInputElement} input */
export function mirror(input) {
  const row = input.closest(".row");
  if (!row) return;
  for (const other of all(row, `[data-field="${CSS.escape(input.dataset.field ?? "")}"]`, HTMLInputElement)) {
    if (other !== input) other.value = written(Number(input.value));
  }
  fillBars(row);
}

export class Controls {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events } = bench;
    events.on("input", "#desk [data-field]", (_, control) => this.#dragged(control));
    events.on("change", "#desk [data-field]", (_, control) => this.#kept(control));
    events.on("click", "#desk button[data-field]", (_, button) => this.#set(button.dataset.field, READ.pressed(button)));
    events.on("focusin", "#desk .number", (_, input) => input.select());
  }

  /** @param {HTMLInputElement} control */
  #dragged(control) {
    const { field = "", as = "" } = control.dataset;
    if (control.type === "text" || as === "text" || as === "stops") return;
    const value = READ[as](control);
    if (as === "number") mirror(control);
    if (value !== undefined) this.bench.showing.draftSet(field, value);
  }

  /** @param {HTMLInputElement} control */
  #kept(control) {
    const { field = "", as = "" } = control.dataset;
    if (!(as in READ)) return;
    const value = READ[as](control);
    if (value === undefined || (Array.isArray(value) && value.some(Number.isNaN))) this.#refuse(control);
    else this.#set(field, value);
  }

  /** @param {HTMLInputElement} control */
  #refuse(control) {
    say(`‘${control.value}’ is no number. Nothing was changed; type one, or a small sum such as 80+5.`);
    control.value = control.defaultValue;
    control.select?.();
  }

  /** @param {string} field @param {unknown} value */
  #set(field, value) {
    const { session, strip } = this.bench;
    const { chosen } = strip;
    if (chosen.length > 1 && TOGETHER.has(field)) session.edit("set-layers", { layers: chosen, field, value });
    else session.set(field, value);
  }

  /** The number field of a setting. @param {string} field */
  numberAt(field) { return find(this.bench.root, `#desk input.number[data-field="${CSS.escape(field)}"]`, HTMLInputElement); }

  /** What a setting's number field holds. @param {string} field */
  read(field) {
    const input = this.numberAt(field);
    return (numberOf(input.value) ?? 0) / Number(input.dataset.factor || 1);
  }

  /** Show a value on a setting's controls without keeping it. @param {string} field @param {number} value @param {number} [digits] */
  show(field, value, digits = 4) {
    const input = this.numberAt(field);
    input.value = written(value * Number(input.dataset.factor || 1), digits);
    mirror(input);
  }
}
