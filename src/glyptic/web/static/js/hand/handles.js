/** Handles on the picture for what was drawn: the part of a mask that is open on the desk, or the layer's own gradient or
 * vignette. */

import { drawn } from "../core/dom.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {[number, number]} Point
 * @typedef {{ name: string, title: string, at: Point, to: (at: Point) => any, stop?: boolean }} Handle
 */

const GRIP = 5;
const STOP = 4;
const FAR = 26;
const LEAST = 1;
/** How near to its other end, in pixels of the picture, an end of a ramp may come. */
const LEAST_APART = 2;
const OVAL_POINTS = 48;
/** How far beyond a picture's upper side its turn is grasped, as a share of half its height; the least it is scaled to. */
const [TURN_OUT, LEAST_SHARE] = [0.16, 0.01];

const tidy = (/** @type {number} */ v) => Number(v.toFixed(2));

/** @param {Point} point @param {number} degrees @returns {Point} */
const turned = ([x, y], degrees) => {
  const angle = (degrees * Math.PI) / 180;
  return [x * Math.cos(angle) - y * Math.sin(angle), x * Math.sin(angle) + y * Math.cos(angle)];
};
/** @param {Point} a @param {Point} b @returns {Point} */
const plus = (a, b) => [a[0] + b[0], a[1] + b[1]];
/** @param {Point} a @param {Point} b @returns {Point} */
const minus = (a, b) => [a[0] - b[0], a[1] - b[1]];

/** @param {Point} a @param {number} by @returns {Point} */
const times = ([x, y], by) => [x * by, y * by];

/** A place kept at a little distance from another. @param {Point} at @param {Point} other @returns {Point} */
function apart(at, other) {
  const [dx, dy] = minus(at, other);
  const far = Math.hypot(dx, dy);
  if (far >= LEAST_APART) return at;
  return far ? [other[0] + (dx * LEAST_APART) / far, other[1] + (dy * LEAST_APART) / far] : [other[0] + LEAST_APART, other[1]];
}

/** How far along a line a place lies, 0..1, or beyond where that is let pass. @param {Point} at @param {Point} from @param {Point} to */
function along(at, from, to, within = true) {
  const [lx, ly] = minus(to, from);
  const [x, y] = minus(at, from);
  const share = (x * lx + y * ly) / (lx * lx + ly * ly || 1);
  return within ? Math.min(1, Math.max(0, share)) : share;
}

/** For each shape its handles: where they are, and what a drag to `at` makes of the setting they stand for.
 * @type {Record<string, (v: any, perStage: number) => Handle[]>} */
const HANDLES = {
  ramp: (v) => [
    { name: "from", title: "full", at: v.from, to: (at) => apart(at, v.to) },
    { name: "to", title: "none", at: v.to, to: (at) => apart(at, v.from) },
    ...(v.stops ?? []).flatMap((/** @type {any} */ stop, /** @type {number} */ i) => stopHandles(v, stop, i)),
  ],
  oval: (v, perStage) => [
    { name: "centre", title: "middle", at: v.centre, to: (at) => at },
    { name: "radii", title: "width", at: plus(v.centre, turned([v.radii[0], 0], v.rotation)), to: (at) => [Math.max(LEAST, Math.hypot(...minus(at, v.centre))), v.radii[1]] },
    { name: "radii", title: "height", at: plus(v.centre, turned([0, v.radii[1]], v.rotation)), to: (at) => [v.radii[0], Math.max(LEAST, Math.hypot(...minus(at, v.centre)))] },
    { name: "rotation", title: "turn", at: plus(v.centre, turned([v.radii[0] + FAR * perStage, 0], v.rotation)), to: (at) => (Math.atan2(at[1] - v.centre[1], at[0] - v.centre[0]) * 180) / Math.PI },
  ],
  picture: (v) => pictureHandles(v),
  outline: (v) => v.points.map((/** @type {Point} */ at, /** @type {number} */ i) => ({ name: "points", title: `corner ${i + 1}`, at, to: (/** @type {Point} */ now) => v.points.with(i, now) })),
};

/** The handles of a gradient's stop: where it stands, and the middle between it and the next. @param {any} v @param {any} stop @param {number} i @returns {Handle[]} */
function stopHandles(v, stop, i) {
  const place = (/** @type {number} */ share) => /** @type {Point} */ ([v.from[0] + (v.to[0] - v.from[0]) * share, v.from[1] + (v.to[1] - v.from[1]) * share]);
  const next = v.stops[i + 1];
  const changed = (/** @type {any} */ values) => v.stops.with(i, { ...stop, ...values });
  const made = [];
  if (i > 0 && next) {
    const [low, high] = [v.stops[i - 1].at, next.at];
    made.push({ name: "stops", title: `stop ${i + 1}`, at: place(stop.at), stop: true, to: (/** @type {Point} */ at) => changed({ at: Math.min(high, Math.max(low, along(at, v.from, v.to))) }) });
  }
  if (next && next.at > stop.at) {
    const span = next.at - stop.at;
    const middle = (/** @type {Point} */ at) => Math.min(0.95, Math.max(0.05, (along(at, v.from, v.to) - stop.at) / span));
    made.push({ name: "stops", title: `middle between stops ${i + 1} and ${i + 2}`, at: place(stop.at + span * (stop.middle ?? 0.5)), stop: true, to: (/** @type {Point} */ at) => changed({ middle: middle(at) }) });
  }
  return made;
}

/** @param {Point[]} points @returns {Point} */
const middle = (points) => [points.reduce((sum, [x]) => sum + x, 0) / points.length, points.reduce((sum, [, y]) => sum + y, 0) / points.length];

/** The handles of a picture: its middle moves it, its corners scale it or go each by itself, one above it turns it. Their
 * values are whole places. @param {any} v @returns {Handle[]} */
function pictureHandles(v) {
  /** @type {Point[]} */
  const corners = v.corners;
  const centre = middle(corners);
  const top = middle([corners[0], corners[1]]);
  const placed = (/** @type {Point[]} */ now, /** @type {any} */ values) => ({ corners: now, ...(v.free ? {} : values) });
  const all = (/** @type {(p: Point) => Point} */ change) => corners.map(change);
  const angle = (/** @type {Point} */ at) => Math.atan2(at[1] - centre[1], at[0] - centre[0]);
  return [
    { name: "", title: "move", at: centre, to: (at) => placed(all((p) => plus(p, minus(at, centre))), { x: at[0], y: at[1] }) },
    { name: "", title: "turn", at: plus(top, times(minus(top, centre), TURN_OUT)), stop: true, to: (at) => {
      const by = ((angle(at) - angle(top)) * 180) / Math.PI;
      return placed(all((p) => plus(centre, turned(minus(p, centre), by))), { rotation: ((v.rotation + by + 540) % 360) - 180 });
    } },
    ...corners.map((corner, i) => ({ name: "", title: v.free ? "corner" : "size", at: corner, to: (/** @type {Point} */ at) => {
      if (v.free) return placed(corners.with(i, at), {});
      const far = corners[(i + 2) % 4];
      const share = Math.max(LEAST_SHARE, along(at, far, corner, false));
      return placed(all((p) => plus(far, times(minus(p, far), share))), { scale: v.scale * share, x: far[0] + (centre[0] - far[0]) * share, y: far[1] + (centre[1] - far[1]) * share });
    } })),
  ];
}

/** @type {Record<string, (v: any, s: (p: Point) => string) => string>} */
const LINES = {
  ramp: (v, s) => `M${s(v.from)}L${s(v.to)}`,
  oval: (v, s) => {
    const places = Array.from({ length: OVAL_POINTS }, (_, i) => {
      const angle = (2 * Math.PI * i) / OVAL_POINTS;
      return turned([v.radii[0] * Math.cos(angle), v.radii[1] * Math.sin(angle)], v.rotation);
    });
    return `M${places.map((p) => s(plus(v.centre, p))).join("L")}Z`;
  },
  picture: (v, s) => `M${v.corners.map(s).join("L")}Z`,
  outline: (v, s) => `M${v.points.map(s).join("L")}Z`,
};

/** A value as the document writes it. @param {any} value @returns {any} */
function plain(value) {
  if (Array.isArray(value)) return value.map(plain);
  if (typeof value === "number") return tidy(value);
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, typeof one === "number" ? Number(one.toFixed(4)) : Array.isArray(one) ? plain(one) : one]));
}

export class Handles {
  /** @type {any} */
  #shown = null;
  /** What a drag has made of the values so far. @type {any} */
  values = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.layer = bench.layerOf("handles");
    bench.canvas.addEventListener("moved", () => { if (this.#shown) this.draw(); });
    bench.root.addEventListener("toggle", (event) => { if (event.target instanceof Element && event.target.closest(".part")) this.draw(); }, true);
    bench.desk.addEventListener("leaf", () => this.draw());
    bench.session.addEventListener("state", () => this.draw());
  }

  /** What is to have handles now: the open part, or the layer's own shape, by the leaf that is open. */
  #wanted() {
    const { root, session, desk } = this.bench;
    const open = root.querySelector("#desk .part details[open]")?.closest("[data-part]")?.getAttribute("data-part");
    const shapes = session.state.shapes ?? [];
    const part = shapes.find((shape) => String(shape.part) === open) ?? null;
    const own = shapes.find((shape) => shape.part === null) ?? null;
    return desk.leaf === "mask" ? part : own ?? part;
  }

  /** @param {Point} point */
  #onStage([x, y]) {
    const p = this.bench.canvas.onStage(x, y);
    return `${p.x.toFixed(1)} ${p.y.toFixed(1)}`;
  }

  /** @param {any} values */
  #handlesOf(values) { return HANDLES[this.#shown.shape](values, 1 / this.bench.canvas.zoom); }

  /** Draw the handles anew. */
  draw() {
    const hidden = this.bench.hand?.hidesHandles ?? false;
    this.#shown = hidden ? null : this.#wanted();
    this.layer.replaceChildren();
    if (!this.#shown) return;
    const values = this.values ?? this.#shown.values;
    this.layer.append(drawn("path", { class: "drawn faint", d: LINES[this.#shown.shape](values, (point) => this.#onStage(point)) }));
    this.#handlesOf(values).forEach(({ at, title, stop }, i) => {
      const { x, y } = this.bench.canvas.onStage(...at);
      const d = stop ? `M${x - STOP} ${y - STOP}h${2 * STOP}v${2 * STOP}h${-2 * STOP}z` : `M${x} ${y - GRIP}l${GRIP} ${GRIP} -${GRIP} ${GRIP} -${GRIP} -${GRIP}z`;
      this.layer.append(drawn("path", { class: stop ? "grip stop-grip" : "grip", d, "data-grip": i }, drawn("title", {}, title)));
    });
  }

  /** The edit that a drag of a handle to a place makes; the shape is drawn as it would be. @param {any} shape @param {number} grip @param {Point} at @returns {[string, any]} */
  dragged(shape, grip, at) {
    const { name, to } = HANDLES[shape.shape](shape.values, 1 / this.bench.canvas.zoom)[grip];
    const value = plain(to(at));
    this.values = { ...shape.values, ...(name ? { [name]: value } : value) };
    this.draw();
    const { corners, ...centred } = value;
    return ["set", { layer: this.bench.session.chosen, field: name ? `${shape.field}.${name}` : shape.field, value: name ? value : shape.values.free ? { corners } : centred }];
  }

  get shown() { return this.#shown; }

  /** The drag is over. */
  rest() {
    this.values = null;
    this.draw();
  }
}

/** The deed of a press on a handle: live while it is dragged, one step when it is let go. */
export class Gripping {
  /** @type {[string, any] | null} */
  #edit = null;

  /** @param {Bench} bench @param {PointerEvent} event */
  constructor(bench, event) {
    this.bench = bench;
    this.grip = Number(/** @type {SVGElement} */ (event.target).dataset.grip);
    this.shape = bench.handles.shown;
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { canvas, handles, showing } = this.bench;
    const { x, y } = canvas.at(event);
    this.#edit = handles.dragged(this.shape, this.grip, [x, y]);
    showing.draft(...this.#edit);
  }

  async end() {
    if (this.#edit) await this.bench.session.edit(...this.#edit);
    this.bench.handles.rest();
  }

  giveUp() {
    this.bench.handles.rest();
    this.bench.showing.giveUpDraft();
  }
}
