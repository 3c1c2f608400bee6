/** Deeds of the hand on the picture: moving it, painting, sizing the brush, drawing shapes, shifting a mask. */

import { drawn } from "../core/dom.js";
import { CHOSEN } from "../core/session.js";
import { Stroke } from "./painting.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ x: number, y: number }} Point
 */

const LEAST_DRAG = 4;
const PER_PIXEL = 1.008;
const HARD_PER_PIXEL = 0.005;
const BAR = 60;
const OVAL_POINTS = 48;

const round = (/** @type {number} */ v) => Number(v.toFixed(2));

export class Moving {
  /** @type {PointerEvent | null} */
  #last = null;

  /** @param {Bench} bench */
  constructor(bench) { this.bench = bench; }

  /** @param {PointerEvent} event */
  move(event) {
    const last = this.#last;
    this.#last = event;
    if (last) this.bench.canvas.pan(event.clientX - last.clientX, event.clientY - last.clientY);
    else this.bench.canvas.pan(event.movementX, event.movementY);
  }

  end() {}
  giveUp() {}
}

/** While a key is held the brush is sized by dragging across, and hardened by dragging up and down. */
export class Resizing {
  /** @param {Bench} bench @param {PointerEvent} event */
  constructor(bench, event) {
    this.brush = bench.brush;
    const { size, hardness } = this.brush.set;
    this.from = { x: event.clientX, y: event.clientY, size, hardness };
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { x, y, size, hardness } = this.from;
    this.brush.change({ size: Math.round(size * PER_PIXEL ** (event.clientX - x)), hardness: hardness + (y - event.clientY) * HARD_PER_PIXEL });
  }

  end() {}

  giveUp() { this.brush.change({ size: this.from.size, hardness: this.from.hardness }); }
}

export class Painting {
  /** @param {Bench} bench @param {PointerEvent} event */
  constructor(bench, event) {
    this.bench = bench;
    this.stroke = new Stroke(bench, event.pointerType === "pen");
    const from = bench.hand.straightFrom;
    if (event.shiftKey && from?.layer === bench.session.chosen) this.stroke.start(from.place);
    this.last = bench.canvas.at(event);
    this.stroke.add(event);
  }

  /** @param {PointerEvent} event */
  move(event) {
    this.stroke.add(event);
    this.last = this.bench.canvas.at(event);
  }

  end() {
    this.bench.hand.straightFrom = { layer: this.stroke.layer, place: this.last };
    this.stroke.end();
  }

  giveUp() { this.stroke.giveUp(); }
}

/** A shape drawn by pressing and dragging: shown live, kept when the hand lifts. */
class Shape {
  /** @type {[string, any] | null} */
  #edit = null;

  /** @param {Bench} bench @param {PointerEvent} event */
  constructor(bench, event) {
    this.bench = bench;
    this.overlay = bench.layerOf("overlay");
    this.start = bench.canvas.at(event);
    this.own = bench.brush.ownShape;
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { canvas, showing } = this.bench;
    const now = canvas.at(event);
    if (Math.hypot(now.x - this.start.x, now.y - this.start.y) * canvas.zoom < LEAST_DRAG) return;
    this.overlay.replaceChildren(...this.lines(now));
    this.#edit = this.own ? ["set", { layer: CHOSEN, field: "settings", value: this.values(now) }] : this.#part(now);
    showing.draft(...this.#edit);
  }

  /** @param {Point} now @returns {[string, any]} */
  #part(now) {
    const op = this.bench.brush.sets.mask.side ? "show" : "hide";
    return ["add-part", { layer: CHOSEN, part: { op, ...this.bench.declared.parts[this.kind], kind: this.kind, ...this.values(now) } }];
  }

  end() {
    this.overlay.replaceChildren();
    if (this.#edit) this.bench.session.edit(...this.#edit);
  }

  giveUp() {
    this.overlay.replaceChildren();
    this.bench.showing.giveUpDraft();
  }

  get kind() { return ""; }

  /** @param {Point} _now @returns {SVGElement[]} */
  lines(_now) { return []; }

  /** @param {Point} _now @returns {Record<string, unknown>} */
  values(_now) { return {}; }
}

export class Ramp extends Shape {
  get kind() { return "ramp"; }

  /** @param {Point} now */
  lines(now) {
    const { canvas } = this.bench;
    const a = canvas.onStage(this.start.x, this.start.y);
    const b = canvas.onStage(now.x, now.y);
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    const across = { x: (-(b.y - a.y) / length) * BAR, y: ((b.x - a.x) / length) * BAR };
    const bar = (/** @type {Point} */ p) => drawn("line", { class: "drawn", x1: p.x - across.x, y1: p.y - across.y, x2: p.x + across.x, y2: p.y + across.y });
    return [bar(a), bar(b), drawn("line", { class: "drawn faint", x1: a.x, y1: a.y, x2: b.x, y2: b.y })];
  }

  /** @param {Point} now */
  values(now) { return { from: [round(this.start.x), round(this.start.y)], to: [round(now.x), round(now.y)] }; }
}

export class Oval extends Shape {
  get kind() { return "oval"; }

  /** @param {Point} now */
  #radii(now) { return [Math.max(1, Math.abs(now.x - this.start.x)), Math.max(1, Math.abs(now.y - this.start.y))]; }

  /** @param {Point} now */
  lines(now) {
    const { canvas } = this.bench;
    const [rx, ry] = this.#radii(now);
    const ellipse = (/** @type {number} */ share) => {
      const places = Array.from({ length: OVAL_POINTS }, (_, i) => {
        const angle = (2 * Math.PI * i) / OVAL_POINTS;
        const { x, y } = canvas.onStage(this.start.x + share * rx * Math.cos(angle), this.start.y + share * ry * Math.sin(angle));
        return `${x.toFixed(1)} ${y.toFixed(1)}`;
      });
      return `M${places.join("L")}Z`;
    };
    return [drawn("path", { class: "drawn", d: ellipse(1) }), drawn("path", { class: "drawn faint", d: ellipse(0.5) })];
  }

  /** @param {Point} now */
  values(now) { return { centre: [round(this.start.x), round(this.start.y)], radii: this.#radii(now).map(round) }; }
}

/** The mask taken along with the hand; what looks at the picture stays. */
export class ShiftingMask {
  by = [0, 0];

  /** @param {Bench} bench @param {PointerEvent} event */
  constructor(bench, event) {
    this.bench = bench;
    this.from = bench.canvas.at(event);
  }

  /** @param {PointerEvent} event */
  move(event) {
    const now = this.bench.canvas.at(event);
    this.by = [Math.round(now.x - this.from.x), Math.round(now.y - this.from.y)];
    this.bench.showing.draft("shift-mask", { layer: CHOSEN, by: this.by });
  }

  end() { if (this.by.some(Boolean)) this.bench.session.edit("shift-mask", { layer: CHOSEN, by: this.by }); }

  giveUp() { this.bench.showing.giveUpDraft(); }
}
