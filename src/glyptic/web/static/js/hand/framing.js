/** The Frame hand: the crop drawn over the whole picture; its sides, corners, inside and outside are dragged. */

import { Plane } from "../canvas/plane.js";
import { drawn } from "../core/dom.js";
import { UNFRAMED } from "../core/showing.js";
import { keep, recall } from "../core/store.js";
import { ARROWS } from "./hand.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {import("../core/events.js").Deed} Deed
 * @typedef {[number, number]} Point
 * @typedef {{ corners: number[][], size: number[] }} Crop
 */

export const FRAME = "@frame";
const KEPT = "glyptic-frame";
/** CSS pixels from a side or corner within which it is grasped. */
const NEAR = 14;
const LEAST_LINE = 6;
const HALVINGS = 40;
const [SNAP, FINE] = [15, 0.1];
const GRIP = 5;
const A_HAIR = 1e-6;
/** Guides in shares of the crop: lines from a place to another. @type {Record<string, number[][]>} */
const GUIDES = {
  none: [],
  thirds: [1 / 3, 2 / 3].flatMap((t) => [[t, 0, t, 1], [0, t, 1, t]]),
  diagonals: [[0, 0, 1, 1], [1, 0, 0, 1]],
  grid: Array.from({ length: 11 }, (_, i) => (i + 1) / 12).flatMap((t) => [[t, 0, t, 1], [0, t, 1, t]]),
};
/** @type {Record<string, [string, string]>} */
const SENTENCES = {
  "": ["Drag a side, a corner or the inside; outside it turns (Shift: by 15°);", "another hand or Enter shows the sheet"],
  level: ["Draw a line along what should be level or plumb;", "the frame turns by it"],
  corners: ["Lay each corner on a corner of the panel;", "it comes out straight, in its true proportions"],
  pick: ["Press on the picture:", "the border takes the colour that is there"],
};

/** @param {number} angle degrees */
const turned = (angle) => [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];

/** Whether four corners lie round a shape without dents. @param {number[][]} corners */
export function isConvex(corners) {
  const turns = corners.map(([ax, ay], i) => {
    const [[bx, by], [cx, cy]] = [corners[(i + 1) % 4], corners[(i + 2) % 4]];
    return (bx - ax) * (cy - by) - (by - ay) * (cx - bx);
  });
  return turns.every((turn) => turn > 0) || turns.every((turn) => turn < 0);
}

/** The crop that lies at a rectangle of another one's plane, turned about its middle. @param {Plane} plane @param {number[]} rect left, top, right, bottom @param {number} [angle] @returns {Crop} */
function cut(plane, [left, top, right, bottom], angle = 0) {
  const [cos, sin] = turned(angle);
  const [mx, my] = [(left + right) / 2, (top + bottom) / 2];
  const place = (/** @type {number} */ x, /** @type {number} */ y) => (angle ? plane.at(mx + (x - mx) * cos - (y - my) * sin, my + (x - mx) * sin + (y - my) * cos) : plane.at(x, y));
  const corners = [place(left, top), place(right, top), place(right, bottom), place(left, bottom)];
  return { corners, size: [Math.max(1, Math.round(right - left)), Math.max(1, Math.round(bottom - top))] };
}

export class Framing {
  /** '' for dragging, or 'level', 'corners', 'pick': what the next press on the picture is for. */
  tool = "";
  /** What a drag has made of the crop so far. @type {Crop | null} */
  #dragged = null;
  #active = false;
  #turning = false;
  /** What is kept in this browser; ratio: of width to height that sides keep, 0 for free. */
  kept = recall(KEPT, { inside: true, guides: "thirds" });
  ratio = 0;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.layer = bench.layerOf("framing");
    bench.brush.addEventListener("change", () => this.#follow());
    bench.session.addEventListener("state", () => this.#state());
    bench.canvas.addEventListener("moved", () => this.draw());
    bench.showing.addEventListener("view", () => this.draw());
    bench.keys.bind("frame-step", (event) => this.#step(event));
    bench.keys.bind("frame-done", () => (this.#active ? bench.brush.take("move") : false));
  }

  /** @param {Record<string, any>} values */
  keep(values) {
    this.kept = { ...this.kept, ...values };
    keep(KEPT, this.kept);
    this.draw();
  }

  get sentence() { return SENTENCES[this.tool]; }

  /** The crop as it is, or as it is being dragged. @returns {Crop} */
  get crop() {
    const { frame, whole: [w, h] } = this.bench.session.state;
    return this.#dragged ?? frame ?? { corners: [[0, 0], [w, 0], [w, h], [0, h]], size: [w, h] };
  }

  /** The frame comes into the hand, or out of it. */
  #follow() {
    const now = this.bench.brush.hand === "frame";
    if (now === this.#active) return;
    this.#active = now;
    this.take("");
    const { session, showing } = this.bench;
    showing.setView(now ? UNFRAMED : "finished");
    if (now && !session.state.frame) this.deed("whole");
    else if (now && session.chosen !== FRAME) session.ask("choose", { layer: FRAME });
    this.draw();
  }

  /** Another card, or an undone frame, takes the frame out of the hand. */
  #state() {
    const { session, brush } = this.bench;
    if (this.#active && session.chosen !== FRAME && !session.asking) brush.take("move");
    this.draw();
  }

  /** What the next press on the picture is for. @param {string} tool */
  take(tool) {
    this.tool = tool;
    if (tool && this.bench.brush.hand !== "frame") this.bench.brush.take("frame");
    this.tool = tool;
    this.bench.brush.dispatchEvent(new Event("change"));
    this.dispatchTool?.();
  }

  /** Told when the tool changes. @type {(() => void) | undefined} */
  dispatchTool;

  /** Have the core work out what becomes of the frame. @param {string} deed @param {Record<string, any>} [values] */
  deed(deed, values = {}) {
    const { session, waiting } = this.bench;
    const inside = this.kept.inside;
    return waiting.during("Working …", (signal) => session.ask("frame", { deed, arguments: { inside, ...values } }, { signal }));
  }

  /** @param {Crop} crop */
  set({ corners, size }) { return this.bench.session.edit("set-frame", { frame: { corners, size } }); }

  /** Whether nothing beyond the picture comes in. @param {Crop} crop */
  #isInside({ corners }) {
    const [w, h] = this.bench.session.state.whole;
    return corners.every(([x, y]) => x >= -A_HAIR && y >= -A_HAIR && x <= w + A_HAIR && y <= h + A_HAIR);
  }

  /** As much of a change, 0..1, as leaves the crop inside the picture. @param {(share: number) => Crop} make */
  within(make) {
    if (!this.kept.inside || this.#isInside(make(1)) || !this.#isInside(make(0))) return make(1);
    let [low, high] = [0, 1];
    for (let i = 0; i < HALVINGS; i += 1) {
      const middle = (low + high) / 2;
      if (this.#isInside(make(middle))) low = middle;
      else high = middle;
    }
    return make(low);
  }

  /** @param {KeyboardEvent} event */
  #step(event) {
    if (!this.#active || event.target !== this.bench.stage) return false;
    const [dx, dy] = ARROWS[event.key];
    const { corners, size: [w, h] } = this.crop;
    const plane = Plane.onto(corners, w, h);
    if (event.altKey) return this.deed("turn", { by: (dx || -dy) * (event.shiftKey ? 1 : FINE) });
    const far = event.shiftKey ? 10 : 1;
    return this.set(this.within((share) => cut(plane, [dx * far * share, dy * far * share, w + dx * far * share, h + dy * far * share].map(Math.round))));
  }

  /** The deed of a press on the picture. @param {PointerEvent} event @returns {Deed | null} */
  press(event) {
    if (this.bench.showing.view !== UNFRAMED) return null;
    if (this.tool === "pick") return new PickingColour(this);
    if (this.tool === "level") return new Line(this, event);
    const grasped = this.#grasped(event);
    if (this.tool === "corners" && grasped.corner !== undefined) return new Corner(this, event, grasped.corner);
    if (grasped.across || grasped.down) return new Side(this, event, grasped.across, grasped.down);
    return grasped.inside ? new Shift(this, event) : new Turn(this, event);
  }

  /** What of the crop lies under a pointer. @param {PointerEvent} event */
  #grasped(event) {
    const { canvas } = this.bench;
    const { corners, size: [w, h] } = this.crop;
    const { x, y } = canvas.shownAt(event);
    const [px, py] = Plane.onto(corners, w, h).inverse.at(x, y);
    const grows = Plane.onto(corners, w, h).growth(w / 2, h / 2);
    const near = NEAR / canvas.zoom / grows;
    const [across, down] = [side(px, w, near), side(py, h, near)];
    const beside = px > -near && py > -near && px < w + near && py < h + near;
    const corner = across && down ? [[-1, -1], [1, -1], [1, 1], [-1, 1]].findIndex(([a, b]) => a === across && b === down) : undefined;
    return { across: beside ? across : 0, down: beside ? down : 0, corner: beside ? corner : undefined, inside: px > 0 && py > 0 && px < w && py < h };
  }

  /** @param {Crop | null} crop @param {boolean} [turning] */
  show(crop, turning = false) {
    this.#dragged = crop;
    this.#turning = turning;
    this.draw();
  }

  /** @param {number[]} place */
  on([x, y]) {
    const p = this.bench.canvas.onStage(x, y);
    return `${p.x.toFixed(1)} ${p.y.toFixed(1)}`;
  }

  draw() {
    const { showing, stage } = this.bench;
    this.layer.replaceChildren();
    if (!this.#active || showing.view !== UNFRAMED) return;
    const { corners, size: [w, h] } = this.crop;
    const plane = Plane.onto(corners, w, h);
    const outline = `M${corners.map((corner) => this.on(corner)).join("L")}Z`;
    const lines = [...GUIDES[this.kept.guides] ?? [], ...(this.#turning ? GUIDES.grid : [])];
    const guides = lines.map(([ax, ay, bx, by]) => `M${this.on(plane.at(ax * w, ay * h))}L${this.on(plane.at(bx * w, by * h))}`).join("");
    const marks = [0, 0.5, 1].flatMap((y) => [0, 0.5, 1].map((x) => [x, y])).filter(([x, y]) => (x !== 0.5 || y !== 0.5) && (this.tool !== "corners" || (x !== 0.5 && y !== 0.5)));
    this.layer.append(
      drawn("path", { class: "cut-away", d: `M0 0H${stage.clientWidth}V${stage.clientHeight}H0Z${outline}` }),
      drawn("path", { class: "guide", d: guides }), drawn("path", { class: "crop", d: outline }),
      ...marks.map(([x, y]) => this.#mark(plane.at(x * w, y * h))),
    );
  }

  /** @param {number[]} place */
  #mark([px, py]) {
    const { x, y } = this.bench.canvas.onStage(px, py);
    return drawn("path", { class: "crop-grip", d: `M${x - GRIP} ${y}L${x} ${y - GRIP}L${x + GRIP} ${y}L${x} ${y + GRIP}Z` });
  }
}

/** Which side a place is near: -1, 1, or 0 for neither. @param {number} at @param {number} length @param {number} near */
function side(at, length, near) {
  const [first, last] = [Math.abs(at), Math.abs(at - length)];
  if (Math.min(first, last) > near) return 0;
  return first < last ? -1 : 1;
}

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

class Shift extends Drag {
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

class Side extends Drag {
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

class Turn extends Drag {
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

class Corner extends Drag {
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
class Line {
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
class PickingColour {
  /** @param {Framing} framing */
  constructor(framing) { this.framing = framing; }

  /** @param {PointerEvent} _event */
  move(_event) {}

  end() {
    const { hand, canvas, session } = this.framing.bench;
    const colour = hand.lastPointer ? canvas.colourAt(hand.lastPointer) : null;
    if (colour) session.set("border.colour", colour, FRAME);
    this.framing.take("");
  }

  giveUp() { this.framing.take(""); }
}
