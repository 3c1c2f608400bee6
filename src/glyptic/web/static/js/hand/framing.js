/** The Frame hand: the crop drawn over the whole picture; its sides, corners, inside and outside are dragged. */

import { Plane } from "../canvas/plane.js";
import { drawn } from "../core/dom.js";
import { say } from "../core/says.js";
import { FRAME } from "../core/session.js";
import { UNFRAMED } from "../core/showing.js";
import { keep, recall } from "../core/store.js";
import { cut } from "./crop.js";
import { Corner, Line, PickingColour, Shift, Side, Turn } from "./framing_deeds.js";
import { ARROWS } from "./hand.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {import("../core/events.js").Deed} Deed
 * @typedef {[number, number]} Point
 * @typedef {import("./crop.js").Crop} Crop
 */

const FIND_LEVEL = "find-level";
const KEPT = "glyptic-frame";
/** CSS pixels from a side or corner within which it is grasped. */
const NEAR = 14;
const HALVINGS = 40;
const FINE = 0.1;
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
  async #state() {
    const { session, brush } = this.bench;
    this.draw();
    await session.settled;
    if (this.#active && session.chosen !== FRAME && !session.asking) brush.take("move");
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
  async deed(deed, values = {}) {
    const { session, waiting } = this.bench;
    const inside = this.kept.inside;
    const answer = await waiting.during("Working …", (signal) => session.ask("frame", { deed, arguments: { inside, ...values } }, { signal }));
    if (answer && deed === FIND_LEVEL) say(answer.said);
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
