/** Pins: spots of the picture whose numbers stay in sight. They are set at the pointer, dragged, named, removed. */

import { drawn, find, make, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { get, Refusal } from "../core/server.js";
import { keep, recall } from "../core/store.js";
import { frameOnto } from "./plane.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ x: number, y: number, name?: string, neutral?: boolean, over?: number }} Pin
 * @typedef {{ tone: number, tone_before: number, codes: number[], codes_before: number[], cast: string, cast_before: string } | null} Reading
 */

const PATIENCE = 220;
const MOST = 12;
const HIDDEN = "glyptic-pins-hidden";
const [STEP, FAR] = [1, 10];
const percent = (/** @type {number} */ share) => `${Math.round(share * 100)} %`;
/** @param {number} by */
const signed = (by) => `${by < 0 ? "−" : "+"}${Math.abs(by)}`;

export class Pins {
  /** @type {Reading[]} */
  #readings = [];
  #asked = 0;
  #timer = 0;
  #open = -1;
  /** A pin in the hand, where it is. @type {{ index: number, x: number, y: number } | null} */
  #dragged = null;
  #hidden = recall(HIDDEN, false);

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.box = find(bench.stage, "#pins", HTMLElement);
    this.editor = find(bench.stage, "#pin-editor", HTMLFormElement);
    const { events, keys, session, canvas, showing } = bench;
    keys.bind("pin", () => this.#setAt(bench.hand.lastPointer));
    keys.bind("pins-hidden", () => this.#hide());
    keys.bind("pin-step", (event, pin) => this.#step(event, Number(pin.dataset.pin)));
    keys.bind("pin-remove", (_, pin) => this.#remove(Number(pin.dataset.pin)));
    events.drag(".pin", (event, pin) => this.#drag(event, Number(pin.dataset.pin)));
    events.on("keydown", ".pin", (event, pin) => (event.key === "Enter" ? this.#edit(Number(pin.dataset.pin)) : false));
    events.on("click", "#set-pin", () => this.#setAt(null));
    events.on("submit", "#pin-editor", (event) => {
      event.preventDefault();
      this.#close();
    });
    events.on("change", "#pin-editor [name]", () => this.#changed());
    events.on("click", "#pin-editor [data-remove]", () => this.#remove(this.#open));
    canvas.addEventListener("moved", () => this.draw());
    canvas.addEventListener("size", () => this.draw());
    showing.addEventListener("view", () => this.draw());
    session.addEventListener("state", (event) => {
      this.draw();
      if (/** @type {CustomEvent} */ (event).detail.before.root !== session.state.root) this.#readSoon();
    });
    this.draw();
    this.#readSoon();
  }

  /** @returns {Pin[]} */
  get #pins() { return this.bench.session.state.notes.pins ?? []; }

  /** The place of the picture under a pointer. @param {{ clientX: number, clientY: number }} event */
  #under(event) {
    const { x, y } = this.bench.canvas.shownAt(event);
    const [px, py] = frameOnto(this.bench).picture(x, y);
    return { x: Math.round(px * 10) / 10, y: Math.round(py * 10) / 10 };
  }

  /** @param {{ clientX: number, clientY: number } | null} event the pointer, or null for the middle of the stage */
  #setAt(event) {
    const { session, stage, canvas } = this.bench;
    if (this.#pins.length >= MOST) return say(`There are ${MOST} pins already; remove one first (Delete on it).`);
    const box = stage.getBoundingClientRect();
    const inside = event && event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom;
    const at = inside ? event : { clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 };
    const shown = canvas.shownAt(at);
    if (shown.x < 0 || shown.y < 0 || shown.x > canvas.width || shown.y > canvas.height) return say("Point at the picture, then press P: a pin keeps the numbers of that spot in sight.");
    if (this.#hidden) this.#hide();
    return session.edit("put-pin", { pin: null, value: this.#under(at) });
  }

  #hide() {
    this.#hidden = !this.#hidden;
    keep(HIDDEN, this.#hidden);
    this.draw();
  }

  /** @param {number} pin */
  #remove(pin) {
    this.#close();
    this.bench.stage.focus({ preventScroll: true });
    this.bench.session.edit("remove-pin", { pin });
  }

  /** @param {KeyboardEvent} event @param {number} index */
  #step(event, index) {
    const by = event.shiftKey ? FAR : STEP;
    const [dx, dy] = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[event.key] ?? [0, 0];
    const { x, y } = this.#pins[index];
    this.bench.session.edit("put-pin", { pin: index, value: { x: x + dx, y: y + dy } });
  }

  /** A press opens a pin, a drag moves it. @param {PointerEvent} event @param {number} index */
  #drag(event, index) {
    const start = this.#under(event);
    const { x, y } = this.#pins[index];
    const pin = find(this.box, `[data-pin="${index}"]`, HTMLElement);
    pin.focus({ preventScroll: true });
    return {
      move: (/** @type {PointerEvent} */ moved) => {
        const now = this.#under(moved);
        const far = Math.hypot(now.x - start.x, now.y - start.y) * this.bench.canvas.zoom > 3;
        if (far || this.#dragged) this.#dragged = { index, x: x + now.x - start.x, y: y + now.y - start.y };
        this.draw();
      },
      end: () => {
        const moved = this.#dragged;
        this.#dragged = null;
        if (moved) this.bench.session.edit("put-pin", { pin: index, value: { x: moved.x, y: moved.y } });
        else this.#edit(index);
      },
      giveUp: () => {
        this.#dragged = null;
        this.draw();
      },
    };
  }

  /** @param {number} index */
  #edit(index) {
    this.#open = index;
    const { name = "", neutral = false, over = 1 } = this.#pins[index];
    find(this.editor, "[name=name]", HTMLInputElement).value = name;
    find(this.editor, "[name=name]", HTMLInputElement).placeholder = `Pin ${index + 1}`;
    find(this.editor, "[name=neutral]", HTMLInputElement).checked = neutral;
    find(this.editor, "[name=over]", HTMLSelectElement).value = String(over);
    this.editor.hidden = false;
    this.draw();
    find(this.editor, "[name=name]", HTMLInputElement).focus();
  }

  #close() {
    this.#open = -1;
    this.editor.hidden = true;
    this.bench.stage.focus({ preventScroll: true });
  }

  #changed() {
    const value = {
      name: find(this.editor, "[name=name]", HTMLInputElement).value.trim(),
      neutral: find(this.editor, "[name=neutral]", HTMLInputElement).checked,
      over: Number(find(this.editor, "[name=over]", HTMLSelectElement).value),
    };
    if (this.#open >= 0) this.bench.session.edit("put-pin", { pin: this.#open, value });
  }

  /** Read the numbers a while after the last change. */
  #readSoon() {
    clearTimeout(this.#timer);
    if (!this.#pins.length) return;
    this.#timer = setTimeout(async () => {
      const number = (this.#asked += 1);
      const { session } = this.bench;
      try {
        const { revision, pins } = await get(`${session.url}pins`);
        if (number !== this.#asked || revision !== session.state.revision) return;
        this.#readings = pins;
        this.draw();
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
      }
    }, PATIENCE);
  }

  /** @param {Pin} pin @param {Reading} reading */
  #lines(pin, reading) {
    if (reading === undefined) return ["…"];
    if (reading === null) return ["outside the frame"];
    const by = Math.round(reading.tone * 100) - Math.round(reading.tone_before * 100);
    const numbers = `${percent(reading.tone)}${by ? ` (${signed(by)})` : ""}  ${reading.codes.join(" ")}`;
    return pin.neutral ? [numbers, reading.cast + (reading.cast === reading.cast_before ? "" : `, was ${reading.cast_before}`)] : [numbers];
  }

  /** @param {Pin} pin @param {number} index */
  #made(pin, index) {
    const { canvas } = this.bench;
    const at = this.#dragged?.index === index ? this.#dragged : pin;
    const { x, y } = canvas.place.onScreen(.../** @type {[number, number]} */ (frameOnto(this.bench).shown(at.x, at.y)));
    const stage = canvas.onShown(x, y);
    const lines = this.#lines(pin, this.#readings[index]);
    const name = pin.name || `Pin ${index + 1}`;
    const tag = make("span", { className: "pin-tag" }, make("b", { textContent: pin.name || String(index + 1) }), ...lines.map((textContent) => make("span", { textContent })));
    const lozenge = drawn("svg", { viewBox: "-8 -8 16 16", "aria-hidden": "true" }, drawn("path", { d: "M0-6 6 0 0 6-6 0z" }), drawn("path", { d: "M0-1.2 1.2 0 0 1.2-1.2 0z", class: "middle" }));
    const made = make("button", { type: "button", className: `pin${pin.neutral ? " neutral" : ""}`, "data-pin": index, "aria-label": `${name}: ${lines.join(", ")}`, title: `${name}. Drag it, or press to name it; Delete removes it` }, lozenge, tag);
    made.style.left = `${stage.x}px`;
    made.style.top = `${stage.y}px`;
    if (stage.x > this.bench.stage.clientWidth - 170) made.classList.add("leftwards");
    return made;
  }

  draw() {
    const focused = document.activeElement instanceof HTMLElement && this.box.contains(document.activeElement) ? document.activeElement.dataset.pin : undefined;
    const pins = this.#hidden ? [] : this.#pins;
    if (!pins.length && !this.box.children.length) return;
    if (this.#dragged) {
      const { index } = this.#dragged;
      const made = this.#made(pins[index], index);
      const there = find(this.box, `[data-pin="${index}"]`, HTMLElement);
      [there.style.left, there.style.top] = [made.style.left, made.style.top];
      return;
    }
    this.box.replaceChildren(...pins.map((pin, i) => this.#made(pin, i)));
    if (focused !== undefined) maybe(this.box, `[data-pin="${focused}"]`, HTMLElement)?.focus({ preventScroll: true });
    if (this.#open >= pins.length) this.#close();
    if (this.#open < 0) return;
    const { style } = find(this.box, `[data-pin="${this.#open}"]`, HTMLElement);
    const { clientWidth, clientHeight } = this.bench.stage;
    this.editor.style.left = `${Math.min(Math.max(parseFloat(style.left) - 100, 8), clientWidth - 230)}px`;
    this.editor.style.top = `${Math.min(Math.max(parseFloat(style.top) + 34, 8), clientHeight - 130)}px`;
  }
}
