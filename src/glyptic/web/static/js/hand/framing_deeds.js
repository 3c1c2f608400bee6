/** What a press on the whole picture does while the frame is in the hand. */

import { Plane } from "../canvas/plane.js";
import { drawn } from "../core/dom.js";
import { get } from "../core/server.js";
import { FRAME } from "../core/session.js";
import { cut, isConvex } from "./crop.js";

/**
 * @typedef {import("./framing.js").Framing} Framing
 * @typedef {import("./crop.js").Crop} Crop
 * @typedef {[number, number]} Point
 */

const LEAST_LINE = 6;
const SNAP = 15;

/** A drag of the crop: live, one step when it is let go. */
class Drag {
  /** @type {Crop | null} */
  made = null;

  /** @param {Framing} framing @param {PointerEvent} event */
  constructor(framing, event) {
    this.framing = framing;
    this.crop = framing.crop;
    this.plane = Plane.onto(this.crop.corners, this.crop.size[0], this.crop.size[1]);
    this.inverse = this.plane.inverse;
    this.from = this.at(event);
  }

  /** A pointer's place in the plane of the crop. @param {PointerEvent} event */
  at(event) {
    const { x, y } = this.framing.bench.canvas.shownAt(event);
    return this.inverse.at(x, y);
  }

  /** @param {PointerEvent} event */
  move(event) {
    const [x, y] = this.at(event);
    this.made = this.drag(x - this.from[0], y - this.from[1], event, [x, y]);
    this.framing.show(this.made, this instanceof Turn);
  }

  /** @param {number} _dx @param {number} _dy @param {PointerEvent} _event @param {Point} _at @returns {Crop} */
  drag(_dx, _dy, _event, _at) { return this.crop; }

  async end() {
    if (this.made) await this.keep(this.made);
    this.framing.show(null);
  }

  /** @param {Crop} crop @returns {Promise<unknown>} */
  keep(crop) { return this.framing.set(crop); }

  giveUp() { this.framing.show(null); }
}

export class Shift extends Drag {
  /** @param {number} dx @param {number} dy */
  drag(dx, dy) {
    const [w, h] = this.crop.size;
    const along = (/** @type {number} */ x, /** @type {number} */ y) => this.framing.within((share) => {
      const [sx, sy] = [Math.round(x * share), Math.round(y * share)];
      return cut(this.plane, [sx, sy, w + sx, h + sy]);
    });
    const first = along(dx, 0);
    const [mx] = this.inverse.at(first.corners[0][0], first.corners[0][1]);
    return this.framing.within((share) => cut(this.plane, [Math.round(mx), Math.round(dy * share), w + Math.round(mx), h + Math.round(dy * share)]));
  }
}

export class Side extends Drag {
  /** @param {Framing} framing @param {PointerEvent} event @param {number} across @param {number} down */
  constructor(framing, event, across, down) {
    super(framing, event);
    this.across = across;
    this.down = down;
  }

  /** @param {number} dx @param {number} dy */
  drag(dx, dy) { return this.framing.within((share) => cut(this.plane, this.#rect(dx * share, dy * share))); }

  /** @param {number} dx @param {number} dy */
  #rect(dx, dy) {
    const [w, h] = this.crop.size;
    let wide = Math.max(1, Math.round(w + this.across * dx));
    let high = Math.max(1, Math.round(h + this.down * dy));
    const { ratio } = this.framing;
    if (ratio && (this.down === 0 || (this.across !== 0 && wide / ratio >= high))) high = Math.max(1, Math.round(wide / ratio));
    else if (ratio) wide = Math.max(1, Math.round(high * ratio));
    const [left, top] = [begin(this.across, w, wide), begin(this.down, h, high)];
    return [left, top, left + wide, top + high];
  }
}

/** Where a side begins when the length between is another: the one that is not dragged stays. @param {number} which @param {number} old @param {number} now */
const begin = (which, old, now) => (which > 0 ? 0 : which < 0 ? old - now : Math.round((old - now) / 2));

export class Turn extends Drag {
  /** @param {number} _dx @param {number} _dy @param {PointerEvent} event @param {Point} at */
  drag(_dx, _dy, event, [x, y]) {
    const [w, h] = this.crop.size;
    const angle = (/** @type {number} */ px, /** @type {number} */ py) => (Math.atan2(py - h / 2, px - w / 2) * 180) / Math.PI;
    let by = ((angle(x, y) - angle(...this.from) + 540) % 360) - 180;
    const { frame } = this.framing.bench.session.state;
    const before = frame?.turn ?? 0;
    if (event.shiftKey) by = Math.round((before + by) / SNAP) * SNAP - before;
    const sized = (/** @type {number} */ s) => {
      const [wide, high] = s === 1 ? [w, h] : [Math.max(1, Math.floor(w * s)), Math.max(1, Math.floor(h * s))];
      return cut(this.plane, [(w - wide) / 2, (h - high) / 2, (w + wide) / 2, (h + high) / 2], by);
    };
    return this.framing.within(sized);
  }
}

export class Corner extends Drag {
  /** @param {Framing} framing @param {PointerEvent} event @param {number} corner */
  constructor(framing, event, corner) {
    super(framing, event);
    this.corner = corner;
    this.start = framing.bench.canvas.shownAt(event);
  }

  /** @param {number} _dx @param {number} _dy @param {PointerEvent} event */
  drag(_dx, _dy, event) {
    const { x, y } = this.framing.bench.canvas.shownAt(event);
    const [cx, cy] = this.crop.corners[this.corner];
    const moved = (/** @type {number} */ share) => ({ ...this.crop, corners: this.crop.corners.with(this.corner, [cx + (x - this.start.x) * share, cy + (y - this.start.y) * share]) });
    const made = this.framing.within(moved);
    return isConvex(made.corners) ? made : this.made ?? this.crop;
  }

  /** @param {Crop} crop */
  keep({ corners }) { return this.framing.deed("straighten", { corners }); }
}

/** A line along what should be level or plumb. */
export class Line {
  /** @param {Framing} framing @param {PointerEvent} event */
  constructor(framing, event) {
    this.framing = framing;
    this.canvas = framing.bench.canvas;
    const { x, y } = this.canvas.shownAt(event);
    this.line = [[x, y], [x, y]];
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { x, y } = this.canvas.shownAt(event);
    this.line[1] = [x, y];
    this.framing.draw();
    this.framing.layer.append(drawn("path", { class: "level-line", d: `M${this.framing.on(this.line[0])}L${this.framing.on(this.line[1])}` }));
  }

  async end() {
    const [[ax, ay], [bx, by]] = this.line;
    const isLine = Math.hypot(bx - ax, by - ay) * this.canvas.zoom >= LEAST_LINE;
    if (isLine) await this.framing.deed("level", { line: this.line });
    this.framing.take("");
    this.framing.draw();
  }

  giveUp() { this.framing.draw(); }
}

/** A press that gives the border the colour of what is shown there. */
export class PickingColour {
  /** @param {Framing} framing */
  constructor(framing) { this.framing = framing; }

  /** @param {PointerEvent} _event */
  move(_event) {}

  /** The plate's own values there, whatever the screen makes of them. */
  async end() {
    const { hand, canvas, session } = this.framing.bench;
    this.framing.take("");
    if (!hand.lastPointer) return;
    const { x, y } = canvas.shownAt(hand.lastPointer);
    const question = new URLSearchParams({ x: x.toFixed(1), y: y.toFixed(1), level: String(canvas.level), whole: "1" });
    const spot = await get(`${session.url}spot?${question}`).catch(() => null);
    if (spot?.after) session.set("border.colour", spot.after.map((/** @type {number} */ code) => code / 255), FRAME);
  }

  giveUp() { this.framing.take(""); }
}
