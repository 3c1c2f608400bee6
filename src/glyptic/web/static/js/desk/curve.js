/** The curve: points added by a press, dragged (one or several), dragged off, nudged by keys, set by numbers. */

import { clamp, drawn, find, maybe } from "../core/dom.js";
import { numberOf, written } from "../core/sums.js";
import { CurveMarks } from "./curve_marks.js";
import { added, moved, nearestAcross, tidy, without } from "./curve_points.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {[number, number]} Point
 */

const GRAB = 10;
const OFF = 26;
const LOZENGE = 6;
/** @type {Point[]} */
const STRAIGHT = [[0, 0], [1, 1]];

/** What a drag of points is about: how they were, which one was pressed and where. @typedef {{ start: Point[], at: Point, from: Point, leaving: boolean }} Drag */

export class Curve {
  /** @type {Point[] | null} */
  #dragged = null;
  /** @type {Drag | null} */
  #drag = null;
  #chosen = 0;
  /** @type {Set<number>} */
  #also = new Set();
  #channelShown = "";

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.size = bench.declared.curve;
    this.marks = new CurveMarks(bench);
    bench.events.drag("#curve", (event) => this.#press(event));
    this.#bindControls();
    this.#bindKeys();
    bench.desk.addEventListener("tab", (event) => this.#tabbed(/** @type {CustomEvent} */ (event).detail));
    bench.showing.addEventListener("draft", (event) => {
      const { curves, faults } = /** @type {CustomEvent} */ (event).detail;
      if (Object.keys(curves ?? {}).length) this.draw(curves, faults);
    });
    bench.fresh(() => this.draw());
  }

  get #svg() { return maybe(this.bench.root, "#curve", SVGElement); }
  get channel() { return this.bench.desk.tabOf("curves"); }
  get #field() { return `settings.points.${this.channel}`; }

  /** @returns {Record<string, Point[]>} */
  get #settings() { return JSON.parse(this.#svg?.dataset.points ?? "{}").points ?? {}; }
  get #kept() { return this.#settings[this.channel] ?? STRAIGHT; }
  get #points() { return this.#dragged ?? this.#kept; }

  /** The points that are chosen among so many. @param {number} count */
  #picked(count) { return [...new Set([this.#chosen, ...this.#also])].filter((i) => i < count).toSorted((a, b) => a - b); }

  #bindControls() {
    const { events, session } = this.bench;
    events.on("change", "#point-in, #point-out", () => this.#typed());
    events.on("change", "#curve-shape", (_, select) => {
      if (!select.value) return;
      this.#also = new Set();
      session.set("settings.points", JSON.parse(select.value));
      select.value = "";
    });
    events.on("click", "#curve-reset", () => {
      this.#chosen = 0;
      this.#also = new Set();
      this.#keep(STRAIGHT);
    });
    events.on("click", "[data-mend]", (_, button) => {
      const { low, high } = JSON.parse(button.dataset.mend);
      session.ask("mend", { layer: session.chosen, channel: this.channel, low, high });
    });
  }

  #bindKeys() {
    const { keys } = this.bench;
    keys.bind("curve-nudge", (event) => this.#nudge(event));
    keys.bind("curve-choose", (event) => this.#choose(event.key === "PageUp" ? 1 : -1, event.shiftKey));
    keys.bind("curve-all", () => {
      this.#also = new Set(this.#kept.keys());
      this.#drawPoints();
    });
    keys.bind("curve-remove", () => {
      const which = this.#picked(this.#kept.length);
      this.#also = new Set();
      this.#keep(without(this.#kept, which));
    });
    keys.bind("curve-one", () => {
      if (!this.#also.size) return false;
      this.#also = new Set();
      return this.#drawPoints();
    });
    keys.bind("curve-add", () => this.#addBeside());
  }

  /** @param {string} kind */
  #tabbed(kind) {
    if (kind !== "curves") return;
    if (this.#channelShown !== this.channel) this.#also = new Set();
    this.#channelShown = this.channel;
    this.draw();
    this.bench.measures.draw();
  }

  /** Draw lines and points; `paths` are the server's, by channel. @param {Record<string, string>} [paths] @param {any} [faults] */
  draw(paths = this.bench.session.state.curves, faults = undefined) {
    const svg = this.#svg;
    if (!svg) return;
    const { channel } = this;
    svg.dataset.channel = channel;
    find(svg, ".line", SVGElement).setAttribute("d", paths[channel] ?? "");
    const others = Object.entries(paths).filter(([name]) => name !== channel && this.#settings[name]);
    find(svg, ".others", SVGElement).replaceChildren(...others.map(([name, d]) => drawn("path", { d, class: name })));
    const tab = find(this.bench.root, `#desk [data-tab="${channel}"]`, HTMLElement);
    find(svg, ".up", SVGElement).textContent = tab.dataset.up ?? "";
    find(svg, ".down", SVGElement).textContent = tab.dataset.down ?? "";
    this.#drawPoints();
    this.marks.draw(channel, paths, faults);
  }

  /** @param {number} i @param {Set<number>} several */
  #stateOf(i, several) {
    if (this.#drag?.leaving && several.has(i)) return "leaving";
    if (i === this.#chosen) return "chosen";
    return several.has(i) ? "also" : "";
  }

  #drawPoints() {
    const svg = this.#svg;
    if (!svg) return;
    const all = this.#points;
    const { width, height } = this.size;
    this.#chosen = clamp(this.#chosen, 0, all.length - 1);
    const several = new Set(this.#picked(all.length));
    find(svg, ".points", SVGElement).replaceChildren(
      ...all.map(([x, y], i) => drawn("path", { d: `M${x * width} ${(1 - y) * height - LOZENGE}l6 6-6 6-6-6z`, class: this.#stateOf(i, several) })),
    );
    const { root } = this.bench;
    const [x, y] = all[this.#chosen];
    for (const [id, value] of /** @type {[string, number][]} */ ([["#point-in", x], ["#point-out", y]])) {
      const input = find(root, id, HTMLInputElement);
      if (document.activeElement !== input) input.value = written(value * 100, 1);
    }
    find(root, "#point-which", HTMLElement).textContent = several.size > 1 ? `${several.size} points` : `${this.#chosen + 1} of ${all.length}`;
  }

  /** @param {PointerEvent} event @returns {Point} */
  #within(event) {
    const box = /** @type {SVGElement} */ (this.#svg).getBoundingClientRect();
    return [((event.clientX - box.left) * this.size.width) / box.width, ((event.clientY - box.top) * this.size.height) / box.height];
  }

  /** The point that a press grabs, or -1. @param {Point} at */
  #nearest([x, y]) {
    const distances = this.#points.map(([px, py]) => Math.hypot(px * this.size.width - x, (1 - py) * this.size.height - y));
    const best = distances.indexOf(Math.min(...distances));
    return distances[best] <= GRAB ? best : -1;
  }

  /** @param {PointerEvent} event */
  #press(event) {
    if (event.button !== 0) return null;
    this.#svg?.focus();
    const at = this.#within(event);
    const index = this.#nearest(at);
    if (event.shiftKey) return index < 0 ? this.#boxing(at) : this.#choosing(index);
    this.#take(at, index);
    return { move: (one) => this.#move(one), end: () => this.#release(), giveUp: () => this.#giveUp() };
  }

  /** Shift adds a point to those that are chosen, or takes it out. @param {number} index */
  #choosing(index) {
    if (!this.#also.delete(index)) this.#also.add(index);
    this.#also.add(this.#chosen);
    this.#chosen = index;
    this.#drawPoints();
    return { move() {}, end() {}, giveUp() {} };
  }

  /** A box drawn with Shift held chooses the points in it. @param {Point} from */
  #boxing(from) {
    const box = find(/** @type {SVGElement} */ (this.#svg), ".box", SVGElement);
    const { width, height } = this.size;
    const move = (/** @type {PointerEvent} */ event) => {
      const at = this.#within(event);
      const [x0, x1] = [from[0], at[0]].toSorted((a, b) => a - b);
      const [y0, y1] = [from[1], at[1]].toSorted((a, b) => a - b);
      const inside = (/** @type {Point} */ [x, y]) => x * width >= x0 && x * width <= x1 && (1 - y) * height >= y0 && (1 - y) * height <= y1;
      this.#also = new Set(this.#kept.flatMap((point, i) => (inside(point) ? [i] : [])));
      if (this.#also.size) [this.#chosen] = this.#also;
      box.setAttribute("d", `M${x0} ${y0}H${x1}V${y1}H${x0}Z`);
      this.#drawPoints();
    };
    const end = () => box.setAttribute("d", "");
    return { move, end, giveUp: end };
  }

  /** Take the point at a press, or a new one. @param {Point} at @param {number} index */
  #take(at, index) {
    const { width, height } = this.size;
    let all = this.#kept;
    let taken = index;
    if (index < 0) {
      const made = added(all, tidy(clamp(at[0] / width, 0, 1)), tidy(clamp(1 - at[1] / height, 0, 1)), this.bench.declared.mostPoints);
      if (made) ({ index: taken, points: all } = made);
      else taken = nearestAcross(all, at[0] / width);
      this.#also = new Set();
    } else if (!this.#also.has(index)) {
      this.#also = new Set();
    }
    this.#chosen = taken;
    this.#drag = { start: all, at, from: all[taken], leaving: false };
    this.#dragged = all;
    this.#show();
  }

  /** @param {PointerEvent} event */
  #move(event) {
    const drag = this.#drag;
    if (!drag) return;
    const { width, height } = this.size;
    const [x, y] = this.#within(event);
    const which = this.#picked(drag.start.length);
    drag.leaving = Math.max(-x, x - width, -y, y - height) > OFF && drag.start.length - which.length >= 2;
    const [dx, dy] = which.length > 1 ? [(x - drag.at[0]) / width, (drag.at[1] - y) / height] : [x / width - drag.from[0], 1 - y / height - drag.from[1]];
    this.#dragged = moved(drag.start, which, dx, dy);
    this.#show();
  }

  #show() {
    this.#drawPoints();
    const points = this.#points;
    this.bench.showing.draftSet(this.#field, this.#drag?.leaving ? without(points, this.#picked(points.length)) : points);
  }

  #release() {
    const points = this.#points;
    const which = this.#picked(points.length);
    const leaving = this.#drag?.leaving ?? false;
    if (leaving) this.#also = new Set();
    this.#keep(leaving ? without(points, which) : points);
  }

  #giveUp() {
    this.#drag = null;
    this.#dragged = null;
    this.draw();
    this.bench.showing.giveUpDraft();
  }

  /** @param {Point[]} all */
  #keep(all) {
    const svg = this.#svg;
    if (!svg) return;
    svg.dataset.points = JSON.stringify({ points: { ...this.#settings, [this.channel]: all } });
    this.#drag = null;
    this.#dragged = null;
    this.#drawPoints();
    this.bench.session.set(this.#field, all);
  }

  /** @param {number} by @param {boolean} extend */
  #choose(by, extend) {
    if (extend) this.#also.add(this.#chosen);
    else this.#also = new Set();
    this.#chosen = clamp(this.#chosen + by, 0, this.#kept.length - 1);
    if (extend) this.#also.add(this.#chosen);
    this.#drawPoints();
  }

  /** @param {KeyboardEvent} event */
  #nudge(event) {
    const step = event.shiftKey ? 0.05 : event.altKey ? 0.001 : 0.005;
    const [dx, dy] = /** @type {Record<string, Point>} */ ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] })[event.key];
    this.#keep(moved(this.#kept, this.#picked(this.#kept.length), dx * step, dy * step));
  }

  #addBeside() {
    const all = this.#kept;
    const next = Math.max(1, Math.min(this.#chosen + 1, all.length - 1));
    const made = added(all, (all[next - 1][0] + all[next][0]) / 2, (all[next - 1][1] + all[next][1]) / 2, this.bench.declared.mostPoints);
    if (!made) return;
    this.#chosen = made.index;
    this.#keep(made.points);
  }

  #typed() {
    const [x, y] = ["#point-in", "#point-out"].map((id) => numberOf(find(this.bench.root, id, HTMLInputElement).value));
    const all = this.#kept;
    const [px, py] = all[this.#chosen];
    if (x === null || y === null) this.#drawPoints();
    else this.#keep(moved(all, [this.#chosen], x / 100 - px, y / 100 - py));
  }
}
