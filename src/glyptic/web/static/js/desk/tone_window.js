/** A range of tone over the histogram: where it begins and ends, and how softly; shown live while it is dragged. */

import { all, clamp, drawn, find, maybe } from "../core/dom.js";

/** @typedef {import("../core/bench.js").Bench} Bench */
/** @typedef {{ soft_low: number, low: number, high: number, soft_high: number }} Values */
/** @typedef {keyof Values} Name */

const [WIDTH, WHOLE_WIDTH, EDGE] = [276, 288, 6];
const HEIGHT = 56;
const HANDLE_Y = 60;
const SIZE = 5;
/** @type {Record<Name, string>} */
const NAMES = { soft_low: "Fades out to", low: "Whole from", high: "Whole to", soft_high: "Fades out from" };

const tidy = (/** @type {number} */ v) => Number(v.toFixed(3));

/** @param {Values} v @returns {Values} */
const places = (v) => ({ soft_low: v.low - v.soft_low, low: v.low, high: v.high, soft_high: v.high + v.soft_high });

/** The setting that puts a handle at a place. @param {Name} name @param {number} x @param {Values} v */
function valueAt(name, x, v) {
  if (name === "low") return clamp(x, 0, v.high);
  if (name === "high") return clamp(x, v.low, 1);
  return clamp(name === "soft_low" ? v.low - x : x - v.high, 0, 1);
}

/** @param {Name} name @param {number} x */
const outline = (name, x) => (name.startsWith("soft") ? `M${x} ${HANDLE_Y - SIZE}l${SIZE} ${2 * SIZE}h${-2 * SIZE}z` : `M${x - SIZE} ${4 - SIZE / 2}h${2 * SIZE}v${SIZE * 1.6}h${-2 * SIZE}z`);

export class ToneWindows {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, keys, session } = bench;
    events.drag("#desk [data-window] svg", (event, svg) => this.#press(event, svg));
    events.on("click", "#desk [data-window-preset]", (_, preset) => session.set(preset.closest("[data-window]").dataset.window, JSON.parse(preset.dataset.windowPreset)));
    events.on("input", "#desk [data-field]", () => {
      this.draw();
      return false;
    });
    keys.bind("edge-step", (event, handle) => this.#step(event, handle));
    bench.fresh(() => this.draw());
  }

  /** @param {HTMLElement} box @returns {Values} */
  #values(box) {
    const read = (/** @type {Name} */ name) => this.bench.controls.read(`${box.dataset.window}.${name}`);
    return { soft_low: read("soft_low"), low: read("low"), high: read("high"), soft_high: read("soft_high") };
  }

  draw() { for (const box of all(this.bench.root, "#desk [data-window]", HTMLElement)) this.#drawOne(box, this.#values(box)); }

  /** @param {HTMLElement} box @param {Values} v */
  #drawOne(box, v) {
    const at = /** @type {Values} */ (Object.fromEntries(Object.entries(places(v)).map(([name, x]) => [name, clamp(x, 0, 1) * WIDTH])));
    find(box, ".shown", SVGElement).setAttribute("d", `M${at.soft_low} ${HEIGHT}L${at.low} 4H${at.high}L${at.soft_high} ${HEIGHT}Z`);
    const focused = document.activeElement instanceof SVGElement && box.contains(document.activeElement) ? document.activeElement.dataset.edge : "";
    const marks = /** @type {Name[]} */ (Object.keys(NAMES)).map((name) => drawn("path", {
      d: outline(name, at[name]), class: `handle ${name}`, "data-edge": name, tabindex: 0, role: "slider", "aria-label": NAMES[name],
      "aria-valuemin": 0, "aria-valuemax": 1, "aria-valuenow": tidy(clamp(places(v)[name], 0, 1)),
    }));
    find(box, ".handles", SVGElement).replaceChildren(...marks);
    if (focused) maybe(box, `[data-edge="${focused}"]`, SVGElement)?.focus();
  }

  /** @param {PointerEvent} event @param {SVGElement} svg */
  #press(event, svg) {
    const name = /** @type {Name | undefined} */ (/** @type {SVGElement} */ (event.target).dataset.edge);
    const box = svg.closest("[data-window]");
    if (!name || event.button !== 0 || !(box instanceof HTMLElement)) return null;
    const { controls, session, showing } = this.bench;
    const field = `${box.dataset.window}.${name}`;
    const across = (/** @type {PointerEvent} */ one) => {
      const { left, width } = svg.getBoundingClientRect();
      return (((one.clientX - left) * WHOLE_WIDTH) / width - EDGE) / WIDTH;
    };
    const off = clamp(places(this.#values(box))[name], 0, 1) - across(event);
    let value = this.#values(box)[name];
    const move = (/** @type {PointerEvent} */ one) => {
      value = tidy(valueAt(name, across(one) + off, this.#values(box)));
      controls.show(field, value, 3);
      this.#drawOne(box, this.#values(box));
      showing.draftSet(field, value);
    };
    return { move, end: () => session.set(field, value), giveUp: () => showing.giveUpDraft() };
  }

  /** @param {KeyboardEvent} event @param {SVGElement} handle */
  #step(event, handle) {
    const box = handle.closest("[data-window]");
    const name = /** @type {Name} */ (handle.dataset.edge);
    if (!(box instanceof HTMLElement)) return false;
    const by = event.key === "ArrowRight" || event.key === "ArrowUp" ? 1 : -1;
    const v = this.#values(box);
    return this.bench.session.set(`${box.dataset.window}.${name}`, tidy(valueAt(name, places(v)[name] + by * (event.shiftKey ? 0.05 : event.altKey ? 0.002 : 0.01), v)));
  }
}
