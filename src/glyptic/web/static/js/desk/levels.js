/** Levels: handles under the histogram for black, midtone and white, and for the two ends that come out. */

import { clamp, drawn, find, maybe } from "../core/dom.js";

/** @typedef {import("../core/bench.js").Bench} Bench */
/** @typedef {{ black: number, gamma: number, white: number, out_black: number, out_white: number }} Values */
/** @typedef {keyof Values} Name */

const [WIDTH, WHOLE_WIDTH, EDGE] = [276, 288, 6];
const IN_Y = 72;
const OUT_Y = 92;
const HANDLE = 6;
const LEAST_APART = 0.01;
/** @type {Record<Name, string>} */
const NAMES = { black: "Black", gamma: "Midtone", white: "White", out_black: "Out black", out_white: "Out white" };
const MIDDLE = 0.5;

const tidy = (/** @type {number} */ v) => Number(v.toFixed(4));

/** Where each handle stands, 0..1 across. The midtone's is the value that comes out half way. @param {Values} v @returns {Values} */
function places(v) {
  return { black: v.black, gamma: v.black + (v.white - v.black) * MIDDLE ** v.gamma, white: v.white, out_black: v.out_black, out_white: v.out_white };
}

/** A lozenge on its line; the handles that go in have a hairline up through the histogram. @param {number} x @param {number} y @param {boolean} up */
const shape = (x, y, up) => `M${x} ${y - HANDLE}l${HANDLE} ${HANDLE} -${HANDLE} ${HANDLE} -${HANDLE} -${HANDLE}z${up ? `M${x} ${y - HANDLE}V0` : ""}`;

export class Levels {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, keys, desk, measures } = bench;
    events.drag("#levels", (event) => this.#press(event));
    events.on("input", "#desk [data-panel] [data-field]", () => {
      this.draw();
      return false;
    });
    keys.bind("handle-step", (event, handle) => this.#step(event, handle.dataset.handle));
    desk.addEventListener("tab", () => {
      this.draw();
      measures.draw();
    });
    bench.fresh(() => this.draw());
  }

  get #svg() { return maybe(this.bench.root, "#levels", SVGElement); }
  get #channel() { return this.bench.desk.tabOf("levels"); }

  /** @param {Name} name */
  #field(name) { return `settings.${this.#channel}.${name}`; }

  /** @returns {Values} */
  get #values() {
    const read = (/** @type {Name} */ name) => this.bench.controls.read(this.#field(name));
    return { black: read("black"), gamma: read("gamma"), white: read("white"), out_black: read("out_black"), out_white: read("out_white") };
  }

  /** The setting that puts a handle at a place. @param {Name} name @param {number} x @param {Values} v */
  #valueAt(name, x, v) {
    if (name === "black") return Math.min(x, v.white - LEAST_APART);
    if (name === "white") return Math.max(x, v.black + LEAST_APART);
    if (name !== "gamma") return clamp(x, 0, 1);
    const inside = clamp((x - v.black) / (v.white - v.black), 0.001, 0.999);
    const { low, high } = this.bench.declared.levels.gamma;
    return clamp(Math.log(inside) / Math.log(MIDDLE), low, high);
  }

  draw(values = this.#svg && this.#values) {
    const svg = this.#svg;
    if (!svg || !values) return;
    const at = places(values);
    const focused = document.activeElement instanceof SVGElement ? document.activeElement.dataset.handle : "";
    const marks = /** @type {[Name, number][]} */ (Object.entries(at)).map(([name, share]) => drawn("path", {
      d: shape(clamp(share, 0, 1) * WIDTH, name.startsWith("out") ? OUT_Y : IN_Y, !name.startsWith("out")), class: `handle ${name}`, "data-handle": name, tabindex: 0, role: "slider",
      "aria-label": NAMES[name], "aria-valuemin": 0, "aria-valuemax": 1, "aria-valuenow": values[name].toFixed(3),
    }));
    find(svg, ".handles", SVGElement).replaceChildren(...marks);
    if (focused) maybe(svg, `[data-handle="${focused}"]`, SVGElement)?.focus();
    find(svg, ".ends-line", SVGElement).setAttribute("d", `M${at.out_black * WIDTH} ${OUT_Y}H${at.out_white * WIDTH}`);
  }

  /** Whether only what clips is to be shown while a handle is dragged. @param {Name} name */
  #viewWhile(name) {
    return ["black", "white"].includes(name) && this.bench.root.querySelector("#only-clipped:checked") ? "only-clipped" : undefined;
  }

  /** @param {PointerEvent} event */
  #press(event) {
    const handle = event.target instanceof SVGElement ? event.target : null;
    const name = /** @type {Name | undefined} */ (handle?.dataset.handle);
    const svg = this.#svg;
    if (!name || event.button !== 0 || !svg) return null;
    handle?.focus();
    const across = (/** @type {PointerEvent} */ one) => {
      const box = svg.getBoundingClientRect();
      return (((one.clientX - box.left) * WHOLE_WIDTH) / box.width - EDGE) / WIDTH;
    };
    const off = places(this.#values)[name] - across(event);
    let value = this.#values[name];
    const change = (/** @type {PointerEvent} */ one) => { value = this.#show(name, across(one) + off); };
    const field = this.#field(name);
    change(event);
    return { move: change, end: () => this.bench.session.set(field, value), giveUp: () => this.bench.showing.giveUpDraft() };
  }

  /** Show a handle at a place; its value there. @param {Name} name @param {number} x */
  #show(name, x) {
    const v = this.#values;
    v[name] = tidy(this.#valueAt(name, x, v));
    this.bench.controls.show(this.#field(name), v[name]);
    this.draw(v);
    this.bench.showing.draft("set", { layer: this.bench.session.chosen, field: this.#field(name), value: v[name] }, this.#viewWhile(name));
    return v[name];
  }

  /** @param {KeyboardEvent} event @param {Name} name */
  #step(event, name) {
    const by = event.key === "ArrowRight" || event.key === "ArrowUp" ? 1 : -1;
    const v = this.#values;
    const value = tidy(this.#valueAt(name, places(v)[name] + by * (event.shiftKey ? 0.02 : event.altKey ? 0.0005 : 0.002), v));
    this.bench.session.set(this.#field(name), value);
  }
}
