/** Strokes as objects: picked in the picture, lit up, and weakened, hardened, resized, shifted, flipped or removed. */

import { drawn, find, make, maybe } from "../core/dom.js";
import { get } from "../core/server.js";
import { fillBars } from "../desk/bars.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ x: number, y: number }} Point
 * @typedef {{ place: number[], line: number[][], size: number, opacity: number, does: string }} Found
 */

const LEAST_DRAG = 4;
const AS_THEY_ARE = { strength: 100, size: 100, hardness: 0 };

const name = (/** @type {Found} */ stroke) => stroke.place.join(" ");

export class Strokes {
  /** @type {Found[]} */
  #found = [];
  /** @type {Map<string, Found>} */
  #chosen = new Map();
  #layer = "";
  #painted = 0;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.overlay = bench.layerOf("overlay");
    this.#bind();
    bench.session.addEventListener("state", () => this.#follow());
    bench.canvas.addEventListener("moved", () => { if (this.#found.length) this.draw(); });
  }

  #bind() {
    const { events, session, showing } = this.bench;
    events.on("input", "#strokes-tools input[type=range]", (_, bar) => {
      find(bar.closest(".row"), "output", HTMLElement).textContent = bar.value;
      showing.draft("change-strokes", { layer: session.chosen, strokes: this.places, ...this.#changes() });
    });
    events.on("change", "#strokes-tools input[type=range]", () => this.#keep({}));
    events.on("change", "#strokes-found [data-stroke]", (_, box) => this.#check(box.dataset.stroke, box.checked));
    const deeds = /** @type {Record<string, () => unknown>} */ ({
      last: () => this.#chooseLast(), flip: () => this.#keep({ flip: true }), remove: () => this.#remove(), "let-go": () => this.letGo(),
    });
    events.on("click", "#desk [data-strokes]", (_, button) => deeds[button.dataset.strokes]());
  }

  get #panel() { return maybe(this.bench.root, "#strokes", HTMLElement); }

  /** Where the chosen strokes stand. */
  get places() { return [...this.#chosen.values()].map((stroke) => stroke.place); }

  get anyChosen() { return this.#chosen.size > 0; }

  #follow() {
    const { strokes } = this.bench.session.state.target;
    if (this.#layer !== this.bench.session.chosen || strokes !== this.#painted) this.letGo();
    this.#painted = strokes;
    this.#show();
  }

  /** @param {Found} stroke @param {Point} shift */
  #line(stroke, shift) {
    const points = stroke.line.map(([x, y]) => this.bench.canvas.onStage(x + shift.x, y + shift.y)).map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`);
    return points.length > 1 ? `M${points.join("L")}` : `M${points[0]}h0.1`;
  }

  /** Light up what was found, the chosen ones strongly and as wide as they are. @param {Point} [shift] */
  draw(shift = { x: 0, y: 0 }) {
    const marks = [];
    for (const stroke of this.#found.toReversed()) {
      if (!stroke.line.length) continue;
      const isChosen = this.#chosen.has(name(stroke));
      const d = this.#line(stroke, isChosen ? shift : { x: 0, y: 0 });
      if (isChosen) marks.push(drawn("path", { class: "stroke-body", d, "stroke-width": Math.max(2, stroke.size * this.bench.canvas.zoom) }));
      marks.push(drawn("path", { class: isChosen ? "stroke-line chosen" : "stroke-line", d }));
    }
    this.overlay.replaceChildren(...marks);
  }

  /** @param {Found} stroke */
  #row(stroke) {
    const box = make("input", { type: "checkbox", checked: this.#chosen.has(name(stroke)), "data-stroke": name(stroke) });
    const where = stroke.place[0] < 0 ? "" : ` in part ${stroke.place[0] + 1}`;
    return make("li", {}, make("label", {}, box, ` ${stroke.does.toLowerCase()} ${Math.round(stroke.opacity * 100)} %, ${Math.round(stroke.size)} px, no. ${stroke.place[1] + 1}${where}`));
  }

  #show() {
    if (this.#found.length || this.overlay.querySelector(".stroke-line")) this.draw();
    const panel = this.#panel;
    if (!panel) return;
    find(panel, "#strokes-found", HTMLElement).replaceChildren(...this.#found.map((stroke) => this.#row(stroke)));
    find(panel, "#strokes-tools", HTMLElement).hidden = !this.anyChosen;
    find(panel, "#strokes-says", HTMLElement).textContent = this.anyChosen
      ? `${this.#chosen.size === 1 ? "One stroke" : `${this.#chosen.size} strokes`} chosen: all later ones stay.`
      : "Press on the picture: the strokes there light up, the newest first.";
  }

  /** Let go of what was picked; false if nothing was. */
  letGo() {
    if (!this.#found.length && !this.anyChosen) return false;
    this.#found = [];
    this.#chosen = new Map();
    this.#show();
    return true;
  }

  /** @param {string} which @param {boolean} on */
  #check(which, on) {
    const stroke = this.#found.find((one) => name(one) === which);
    if (on && stroke) this.#chosen.set(which, stroke);
    else this.#chosen.delete(which);
    this.#show();
  }

  /** Choose among the strokes of a place: the newest, the next one on another press, more with Shift. @param {Found[]} here @param {boolean} more */
  choose(here, more) {
    this.#layer = this.bench.session.chosen;
    const same = here.map(name).join() === this.#found.map(name).join();
    const at = here.findIndex((stroke) => this.#chosen.has(name(stroke)));
    const next = here[same && !more ? (at + 1) % here.length : 0];
    if (!more) this.#chosen = new Map();
    this.#found = more ? [...here, ...this.#found.filter((old) => !here.some((one) => name(one) === name(old)))] : here;
    if (next) this.#chosen.set(name(next), next);
    this.#show();
  }

  /** The chosen strokes were shifted. @param {Point} by */
  async shifted({ x, y }) {
    for (const stroke of this.#chosen.values()) stroke.line = stroke.line.map(([px, py]) => [px + x, py + y]);
    await this.bench.session.edit("change-strokes", { layer: this.bench.session.chosen, strokes: this.places, shift: [x, y] });
    this.draw();
  }

  /** @param {keyof typeof AS_THEY_ARE} what */
  #bar(what) { return find(this.bench.root, `#strokes-${what}`, HTMLInputElement); }

  #changes() {
    const share = (/** @type {keyof typeof AS_THEY_ARE} */ what) => Number(this.#bar(what).value) / 100;
    return { strength: share("strength"), size: share("size"), hardness: share("hardness") };
  }

  #reset() {
    for (const what of /** @type {(keyof typeof AS_THEY_ARE)[]} */ (Object.keys(AS_THEY_ARE))) {
      const bar = this.#bar(what);
      bar.value = String(AS_THEY_ARE[what]);
      find(/** @type {Element} */ (bar.closest(".row")), "output", HTMLElement).textContent = bar.value;
    }
    if (this.#panel) fillBars(this.#panel);
  }

  /** @param {{ flip?: boolean }} more */
  async #keep(more) {
    const { session } = this.bench;
    const applied = { ...this.#changes(), ...more };
    await session.edit("change-strokes", { layer: session.chosen, strokes: this.places, ...applied });
    for (const stroke of this.#chosen.values()) {
      stroke.size *= applied.size;
      stroke.opacity = Math.min(1, stroke.opacity * applied.strength);
    }
    this.#reset();
    this.#show();
  }

  async #remove() {
    const { session } = this.bench;
    const strokes = this.places;
    this.letGo();
    await session.edit("remove-strokes", { layer: session.chosen, strokes });
  }

  /** Choose the last strokes that were painted on a part, or on the grey layer. */
  #chooseLast() {
    const { part, count } = this.#panel?.dataset ?? {};
    const last = Math.max(1, Math.min(Number(count), Number(find(this.bench.root, "#strokes-last", HTMLInputElement).value) || 1));
    this.#found = [];
    this.#layer = this.bench.session.chosen;
    this.#chosen = new Map();
    for (let i = Number(count) - last; i < Number(count); i += 1) {
      const place = [Number(part), i];
      this.#chosen.set(place.join(" "), { place, line: [], size: 1, opacity: 1, does: "" });
    }
    this.#show();
  }

  /** @param {PointerEvent} event */
  press(event) { return new StrokePicking(this, event); }
}

/** The deed of a press with strokes to pick; a drag from a chosen stroke shifts all that are chosen. */
class StrokePicking {
  /** @type {Point | null} */
  #moved = null;

  /** @param {Strokes} strokes @param {PointerEvent} event */
  constructor(strokes, event) {
    this.strokes = strokes;
    this.start = strokes.bench.canvas.at(event);
    this.more = event.shiftKey;
    const question = new URLSearchParams({ x: this.start.x.toFixed(1), y: this.start.y.toFixed(1) });
    this.here = get(`${strokes.bench.session.url}strokes-at?${question}`).then((answer) => answer.strokes);
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { canvas, session, showing } = this.strokes.bench;
    const now = canvas.at(event);
    const shift = { x: Number((now.x - this.start.x).toFixed(1)), y: Number((now.y - this.start.y).toFixed(1)) };
    if (!this.strokes.anyChosen || (!this.#moved && Math.hypot(shift.x, shift.y) * canvas.zoom < LEAST_DRAG)) return;
    this.#moved = shift;
    this.strokes.draw(shift);
    showing.draft("change-strokes", { layer: session.chosen, strokes: this.strokes.places, shift: [shift.x, shift.y] });
  }

  async end() {
    if (this.#moved) {
      await this.strokes.shifted(this.#moved);
      return;
    }
    try {
      this.strokes.choose(await this.here, this.more);
    } catch (error) {
      this.strokes.bench.session.complain(error);
    }
  }

  giveUp() {
    this.strokes.draw();
    this.strokes.bench.showing.giveUpDraft();
  }
}
