/** The curve of a mask: points that are dragged, added by a press on the line, taken away with Delete. */

import { clamp, drawn, find, maybe } from "../core/dom.js";
import { CHOSEN } from "../core/session.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {[number, number]} Point
 */

const NEAR = 9;
const LEAST_APART = 0.02;
const SIZE = 4;

const tidy = (/** @type {number} */ v) => Number(v.toFixed(3));

/** @param {Point[]} points @returns {[string, any]} */
const edit = (points) => ["set", { layer: CHOSEN, field: "mask.curve", value: points }];

/** A point moved, kept between its neighbours. @param {Point[]} points @param {number} i @param {number} x @param {number} y @returns {Point[]} */
function moved(points, i, x, y) {
  const low = i ? points[i - 1][0] + LEAST_APART : 0;
  const high = i < points.length - 1 ? points[i + 1][0] - LEAST_APART : 1;
  return points.with(i, [tidy(Math.min(high, Math.max(low, x))), tidy(clamp(y, 0, 1))]);
}

export class MaskCurve {
  /** @type {Point[] | null} */
  #dragged = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { width, height } = bench.declared.maskCurve;
    this.box = { width, height };
    bench.events.drag("#mask-curve", (event) => this.#press(event));
    bench.keys.bind("mask-curve-step", (event, mark) => this.#step(event, Number(mark.dataset.point)));
    bench.keys.bind("mask-curve-remove", (_, mark) => this.#remove(Number(mark.dataset.point)));
    bench.fresh(() => this.draw());
  }

  get #svg() { return maybe(this.bench.root, "#mask-curve", SVGElement); }

  /** @returns {Point[]} */
  get #points() { return this.#dragged ?? JSON.parse(this.#svg?.dataset.points ?? "[]"); }

  draw() {
    const svg = this.#svg;
    if (!svg) return;
    const { width, height } = this.box;
    const focused = document.activeElement instanceof SVGElement ? document.activeElement.dataset.point : undefined;
    const marks = this.#points.map(([x, y], i) => drawn("rect", {
      x: x * width - SIZE, y: (1 - y) * height - SIZE, width: 2 * SIZE, height: 2 * SIZE, class: "point", "data-point": i, tabindex: 0, role: "slider",
      "aria-label": `Point ${i + 1} of the mask's curve`, "aria-valuemin": 0, "aria-valuemax": 1, "aria-valuenow": y, "aria-valuetext": `${Math.round(x * 100)} % becomes ${Math.round(y * 100)} %`,
    }));
    find(svg, ".points", SVGElement).replaceChildren(...marks);
    if (focused !== undefined) marks[Math.min(Number(focused), marks.length - 1)]?.focus();
  }

  /** @param {PointerEvent} event */
  #at(event) {
    const box = /** @type {SVGElement} */ (this.#svg).getBoundingClientRect();
    return { x: clamp((event.clientX - box.left) / box.width, 0, 1), y: clamp(1 - (event.clientY - box.top) / box.height, 0, 1) };
  }

  /** @param {PointerEvent} event */
  #press(event) {
    if (event.button !== 0) return null;
    const { x, y } = this.#at(event);
    const { width, height } = this.box;
    let points = this.#points;
    let index = points.findIndex(([px, py]) => Math.abs(px - x) * width <= NEAR && Math.abs(py - y) * height <= NEAR);
    if (index < 0) {
      if (points.length >= this.bench.declared.mostPoints || points.some(([px]) => Math.abs(px - x) < LEAST_APART)) return null;
      points = [...points, /** @type {Point} */ ([tidy(x), tidy(y)])].toSorted((a, b) => a[0] - b[0]);
      index = points.findIndex(([px]) => px === tidy(x));
    }
    this.#dragged = points;
    this.draw();
    return { move: (one) => this.#drag(one, index), end: () => this.#keep(), giveUp: () => this.#giveUp() };
  }

  /** @param {PointerEvent} event @param {number} index */
  #drag(event, index) {
    const { x, y } = this.#at(event);
    this.#dragged = moved(this.#points, index, x, y);
    this.draw();
    this.bench.showing.draft(...edit(this.#dragged));
  }

  #keep() {
    const points = this.#points;
    const svg = this.#svg;
    if (svg) svg.dataset.points = JSON.stringify(points);
    this.#dragged = null;
    this.bench.session.edit(...edit(points));
  }

  #giveUp() {
    this.#dragged = null;
    this.draw();
    this.bench.showing.giveUpDraft();
  }

  /** @param {KeyboardEvent} event @param {number} index */
  #step(event, index) {
    const by = event.shiftKey ? 0.05 : event.altKey ? 0.002 : 0.01;
    const [dx, dy] = /** @type {Record<string, Point>} */ ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowDown: [0, -1], ArrowUp: [0, 1] })[event.key];
    const points = this.#points;
    this.bench.session.edit(...edit(moved(points, index, points[index][0] + dx * by, points[index][1] + dy * by)));
  }

  /** @param {number} index */
  #remove(index) {
    const points = this.#points;
    if (points.length > 2) this.bench.session.edit(...edit(points.toSpliced(index, 1)));
  }
}
