/** An outline drawn on the picture: freehand by dragging, or corner by corner, closed by a press on its start. */

import { drawn } from "../core/dom.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {[number, number]} Point
 */

const LEAST_DRAG = 4;
const NEAR = 9;
const APART = 3;
const FEWEST = 3;

export class Outlines {
  /** @type {Point[]} */
  #corners = [];

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.overlay = bench.layerOf("overlay");
    bench.canvas.addEventListener("moved", () => { if (this.#corners.length) this.#draw(this.#corners); });
  }

  /** @param {Point} point */
  onStage([x, y]) { return this.bench.canvas.onStage(x, y); }

  /** @param {Point[]} points */
  #draw(points) {
    const places = points.map((point) => this.onStage(point));
    const [start] = places;
    this.overlay.replaceChildren(
      drawn("path", { class: "drawn", d: `M${places.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}` }),
      drawn("circle", { class: "drawn start", cx: start.x, cy: start.y, r: 4 }),
    );
  }

  /** Points no nearer to each other on the screen than a few pixels. @param {Point[]} points */
  #thinned(points) {
    const kept = [points[0]];
    for (const point of points) {
      const [a, b] = [this.onStage(kept[kept.length - 1]), this.onStage(point)];
      if (Math.hypot(a.x - b.x, a.y - b.y) >= APART) kept.push(point);
    }
    return kept;
  }

  /** @param {Point[]} points @param {number} side */
  #keep(points, side) {
    this.drop();
    this.overlay.replaceChildren();
    if (points.length < FEWEST) return;
    const { session } = this.bench;
    session.edit("add-part", { layer: session.chosen, part: { kind: "outline", op: side ? "show" : "hide", points } });
  }

  /** Give up the corners set so far; false if there are none. */
  drop() {
    if (!this.#corners.length) return false;
    this.#corners = [];
    this.overlay.replaceChildren();
    return true;
  }

  /** Close the corners set so far, as a press on the start does; false where there are too few. @param {number} side */
  close(side) {
    if (this.#corners.length < FEWEST) return false;
    this.#keep(this.#corners, side);
    return true;
  }

  /** A line is being drawn freely on from the corners. @param {Point[]} points */
  drawing(points) { this.#draw([...this.#corners, ...points]); }

  /** The hand lifts: from a press a corner, from a drag a line. @param {Point[]} points @param {boolean} free @param {number} side */
  lifted(points, free, side) {
    const here = free ? this.#thinned(points) : [points[0]];
    const last = this.onStage(here[here.length - 1]);
    const start = this.#corners.length ? this.onStage(this.#corners[0]) : null;
    const closes = start && Math.hypot(start.x - last.x, start.y - last.y) <= NEAR;
    if (free && !this.#corners.length) this.#keep(here, side);
    else if (closes && this.#corners.length >= FEWEST) this.#keep(this.#corners, side);
    else {
      this.#corners = [...this.#corners, ...here];
      this.#draw(this.#corners);
    }
  }

  /** @param {PointerEvent} event @param {number} side */
  press(event, side) { return new Outlining(this, event, side); }
}

class Outlining {
  /** @param {Outlines} outlines @param {PointerEvent} event @param {number} side */
  constructor(outlines, event, side) {
    this.outlines = outlines;
    this.side = side;
    this.points = [this.#place(event)];
    this.from = { x: event.clientX, y: event.clientY };
    this.free = false;
  }

  /** @param {PointerEvent} event @returns {Point} */
  #place(event) {
    const { x, y } = this.outlines.bench.canvas.at(event);
    return [Number(x.toFixed(2)), Number(y.toFixed(2))];
  }

  /** @param {PointerEvent} event */
  move(event) {
    this.free ||= Math.hypot(event.clientX - this.from.x, event.clientY - this.from.y) >= LEAST_DRAG;
    this.points.push(this.#place(event));
    if (this.free) this.outlines.drawing(this.points);
  }

  end() { this.outlines.lifted(this.points, this.free, this.side); }

  giveUp() {
    this.outlines.drop();
    this.outlines.overlay.replaceChildren();
  }
}
