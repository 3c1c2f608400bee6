/** The stops of a gradient: set on the desk, added on it and on the picture, always in their order. */

import { all, find, maybe } from "../core/dom.js";
import { numberOf } from "../core/sums.js";
import { rgb } from "./controls.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ at: number, colour: number[], alpha: number, middle: number }} Stop
 */

const FEWEST = 2;

/** @param {Stop} a @param {Stop} b @param {number} share @returns {Stop} */
const between = (a, b, share) => ({
  at: a.at + (b.at - a.at) * share, alpha: a.alpha + (b.alpha - a.alpha) * share, middle: 0.5, colour: a.colour.map((v, i) => v + (b.colour[i] - v) * share),
});

export class Stops {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events } = bench;
    events.on("change", "#desk .stops", () => this.#change((stops) => stops));
    events.on("click", "#desk [data-stop-add]", () => this.#change((stops) => [...stops.slice(0, -1), between(stops[stops.length - 2], stops[stops.length - 1], 0.5), stops[stops.length - 1]]));
    events.on("click", "#desk [data-stop-remove]", (_, button) => this.#change((stops) => (stops.length > FEWEST ? stops.filter((_one, i) => i !== Number(button.dataset.stopRemove)) : stops)));
    events.on("click", "#desk [data-stops-reverse]", () => this.#change((stops) => this.#reversed(stops)));
    events.on("dblclick", "#stage", (event) => this.#addOnPicture(event));
    events.on("click", "#desk [data-colour-drop]", (_, button) => {
      const { colours, values } = button.closest("[data-colours]").dataset;
      bench.session.set(colours, JSON.parse(values).toSpliced(Number(button.dataset.colourDrop), 1));
    });
  }

  get #box() { return maybe(this.bench.root, "#desk .stops", HTMLElement); }

  /** @param {HTMLElement} box @returns {Stop[]} */
  #read(box) {
    return all(box, ".stop:not(.stop-head)", HTMLElement).map((row) => {
      const share = (/** @type {string} */ of) => Math.min(1, Math.max(0, (numberOf(find(row, `[data-of="${of}"]`, HTMLInputElement).value) ?? 0) / 100));
      return { at: share("at"), colour: rgb(find(row, '[data-of="colour"]', HTMLInputElement).value), alpha: share("alpha"), middle: Math.min(0.95, Math.max(0.05, share("middle"))) };
    });
  }

  /** @param {(stops: Stop[]) => Stop[]} change */
  #change(change) {
    const box = this.#box;
    if (!box) return;
    const stops = change(this.#read(box)).toSorted((a, b) => a.at - b.at);
    this.bench.session.set(box.dataset.field ?? "", stops);
  }

  /** The gradient the other way round, the middles with it. @param {Stop[]} stops */
  #reversed(stops) {
    return stops.toReversed().map(({ at, colour, alpha }, i, turned) => ({ at: 1 - at, colour, alpha, middle: i + 1 < turned.length ? 1 - turned[i + 1].middle : 0.5 }));
  }

  /** A double press on the gradient's line in the picture adds a stop there. @param {MouseEvent} event */
  #addOnPicture(event) {
    const { canvas, session, desk } = this.bench;
    const shape = (session.state.shapes ?? []).find(({ part }) => part === null);
    if (!this.#box || desk.leaf === "mask" || !shape?.values.from) return false;
    const { x, y } = canvas.at(event);
    const [fx, fy] = shape.values.from;
    const [lx, ly] = [shape.values.to[0] - fx, shape.values.to[1] - fy];
    const along = ((x - fx) * lx + (y - fy) * ly) / (lx * lx + ly * ly || 1);
    if (along <= 0 || along >= 1) return false;
    this.#change((stops) => {
      const next = stops.findIndex(({ at }) => at > along);
      if (next <= 0) return stops;
      const [a, b] = [stops[next - 1], stops[next]];
      return stops.toSpliced(next, 0, between(a, b, (along - a.at) / (b.at - a.at)));
    });
    return true;
  }
}
