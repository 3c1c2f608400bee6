/** The hand bar: the hands, the brush's measures and sides, and the sentence that says what a stroke would do. */

import { all, find, make } from "../core/dom.js";
import { numberOf } from "../core/sums.js";
import { fillBars } from "../desk/bars.js";
import { DRAWS } from "./brush.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const LONGEST_NAME = 40;

export class HandBar {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.bar = find(bench.root, "#hand", HTMLElement);
    this.does = find(this.bar, "#does", HTMLElement);
    this.#bind();
    bench.brush.addEventListener("change", () => this.show());
    bench.pen.addEventListener("change", () => this.show());
    bench.desk.addEventListener("leaf", () => this.show());
    bench.fresh(() => this.show());
  }

  #bind() {
    const { events, keys, brush, picks } = this.bench;
    const hands = all(this.bar, "[data-hand]", HTMLElement).map((button) => button.dataset.hand ?? "");
    events.on("click", "[data-hand]", (_, button) => brush.take(button.dataset.hand));
    events.on("click", "#hand [data-on]", (_, button) => brush.paintOn(button.dataset.on));
    events.on("click", "#hand [data-side]", (_, { dataset }) => brush.change({ side: dataset.side === "even" ? "even" : Number(dataset.side) }));
    events.on("input", "#hand [data-dial]", (_, { dataset, value }) => brush.change({ [dataset.dial]: dataset.dial === "size" ? this.#fromDial(Number(value)) : Number(value) / 100 }));
    events.on("change", "#hand [data-dial-number]", (_, input) => this.#typed(input));
    keys.bind("hands", (event) => {
      const hand = hands[Number(event.key) - 1];
      if (!hand || (hand === "pick" && !picks.inHand)) return false;
      return brush.take(hand);
    });
    this.#bindPresets();
  }

  #bindPresets() {
    const { events, brush } = this.bench;
    const field = find(this.bar, "#preset-name", HTMLInputElement);
    const named = () => field.value.trim().slice(0, LONGEST_NAME);
    events.on("change", "#presets", (_, select) => brush.use(select.value));
    events.on("click", "#preset-keep", () => {
      if (named()) brush.name(named());
      field.value = "";
    });
    events.on("click", "#preset-forget", () => { if (named()) brush.forget(named()); });
  }

  /** @param {number} size */
  #toDial(size) { return (Math.log(size) / Math.log(this.bench.declared.brush.largest)) * 100; }

  /** @param {number} value */
  #fromDial(value) { return Math.max(1, Math.round(this.bench.declared.brush.largest ** (value / 100))); }

  /** @param {HTMLInputElement} input */
  #typed(input) {
    const name = input.dataset.dialNumber ?? "";
    const value = numberOf(input.value);
    if (value === null) this.show();
    else this.bench.brush.change({ [name]: name === "size" ? value : value / 100 });
  }

  /** @param {string} selector @param {(data: DOMStringMap) => boolean} test */
  #check(selector, test) {
    for (const button of all(this.bar, selector, HTMLElement)) {
      button.setAttribute("aria-checked", String(test(button.dataset)));
      button.tabIndex = test(button.dataset) ? 0 : -1;
    }
  }

  /** Bring the bar in line with the brush and the state. */
  show() {
    const { brush, session, picks } = this.bench;
    const brushing = brush.hand === "paint";
    this.#check("[data-hand]", (data) => data.hand === brush.hand);
    this.#check("[data-on]", (data) => data.on === brush.on);
    this.#check("[data-side]", (data) => data.side === String(brush.set.side));
    find(this.bar, '[data-hand="pick"]', HTMLElement).hidden = !picks.inHand;
    for (const part of all(this.bar, ".dial, .pressure", HTMLElement)) part.hidden = !brushing;
    find(this.bar, "#sides", HTMLElement).hidden = !(brushing || (DRAWS.includes(brush.hand) && !brush.ownShape));
    find(this.bar, "#paint-on", HTMLElement).hidden = !(session.state.target.grey && brushing);
    for (const button of all(this.bar, "[data-side]", HTMLElement)) {
      const word = brush.sides[button.dataset.side ?? ""];
      button.hidden = !word;
      button.textContent = word ?? "";
    }
    this.#showMeasures();
    this.#showPresets();
    this.#showSentence();
  }

  #showMeasures() {
    const { size, hardness, opacity, flow } = this.bench.brush.set;
    const shown = { size: [this.#toDial(size), Math.round(size)], hardness: [hardness * 100, Math.round(hardness * 100)], opacity: [opacity * 100, Math.round(opacity * 100)], flow: [flow * 100, Math.round(flow * 100)] };
    for (const [name, [dial, number]] of Object.entries(shown)) {
      find(this.bar, `[data-dial="${name}"]`, HTMLInputElement).value = String(dial);
      const input = find(this.bar, `[data-dial-number="${name}"]`, HTMLInputElement);
      if (document.activeElement !== input) input.value = String(number);
    }
    fillBars(this.bar);
  }

  #showPresets() {
    const names = Object.keys(this.bench.brush.presets);
    const options = ["", ...names].map((name) => make("option", { value: name, textContent: name || (names.length ? "use …" : "none kept yet") }));
    find(this.bar, "#presets", HTMLSelectElement).replaceChildren(...options);
  }

  #showSentence() {
    const { brush, session } = this.bench;
    const [deed, where] = brush.sentence();
    this.does.replaceChildren(`${deed} `, make("em", { textContent: where }));
    this.does.title = `${deed} ${where}`;
    this.does.classList.toggle("idle", brush.hand === "move" || (brush.hand !== "frame" && !session.state.target.mask));
  }
}
