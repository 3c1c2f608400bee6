/** The desk of the frame: ratio, size, turn, corners, border; each has the core work it out. */

import { all, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { FRAME } from "../core/session.js";
import { numberOf } from "../core/sums.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const RATIO = /^\s*(\d+(?:[.,]\d+)?)\s*[:x×/]\s*(\d+(?:[.,]\d+)?)\s*$/;
const HEAVIER = 1.5;
const EVEN = "4 %";

export class FrameDesk {
  /** The ratio that is chosen, as the list has it. */
  #chosen = "";
  #typed = "";

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, framing } = bench;
    events.on("click", "#desk [data-frame]", (_, { dataset }) => framing.deed(dataset.frame, dataset.by ? { by: Number(dataset.by) } : {}));
    events.on("click", "#desk [data-frame-tool]", (_, { dataset }) => framing.take(framing.tool === dataset.frameTool ? "" : dataset.frameTool));
    events.on("click", "#desk [data-frame-pick]", () => framing.take("pick"));
    events.on("click", "#desk [data-frame-remove]", () => bench.session.edit("remove-layers", { layers: [FRAME] }));
    events.on("click", "#desk [data-frame-border]", (_, { dataset }) => this.#border(dataset.frameBorder === "heavier" ? HEAVIER : 1));
    events.on("change", "#frame-border-all", () => this.#border(1));
    events.on("change", "#frame-ratio", (_, { value }) => this.#choose(value));
    events.on("change", "#frame-typed", (_, { value }) => this.#type(value));
    events.on("click", "#frame-upright", () => this.#exchange());
    events.on("change", "#frame-turn", (_, input) => this.#turn(input));
    events.on("change", "#desk [data-frame-size]", () => this.#size());
    events.on("change", "#desk [data-frame-corner]", () => this.#corners());
    events.on("change", "#frame-inside", (_, { checked }) => framing.keep({ inside: checked }));
    events.on("change", "#frame-guides", (_, { value }) => framing.keep({ guides: value }));
    framing.dispatchTool = () => this.#show();
    bench.fresh(() => this.#show());
  }

  /** @param {string} selector @returns {any} */
  #at(selector) { return maybe(this.bench.root, `#desk ${selector}`, HTMLElement); }

  /** What the browser keeps, on the desk as it was drawn anew. */
  #show() {
    const { framing } = this.bench;
    const select = this.#at("#frame-ratio");
    if (!select) return;
    select.value = this.#chosen;
    this.#at("#frame-typed").value = this.#typed;
    this.#at("#frame-typed-row").hidden = this.#chosen !== "typed";
    this.#at("#frame-inside").checked = framing.kept.inside;
    this.#at("#frame-guides").value = framing.kept.guides;
    for (const button of all(this.bench.root, "#desk [data-frame-tool]", HTMLElement)) button.setAttribute("aria-pressed", String(button.dataset.frameTool === framing.tool));
  }

  /** @param {string} name */
  #choose(name) {
    this.#chosen = name;
    if (!name) this.bench.framing.ratio = 0;
    this.#show();
    if (name === "typed") this.#at("#frame-typed").focus();
    else if (name) this.#cut(name === "picture" ? this.bench.session.state.whole : name.split(":").map(Number));
  }

  /** @param {string} text */
  #type(text) {
    const found = RATIO.exec(text);
    this.#typed = text;
    if (found) this.#cut([found[1], found[2]].map((part) => Number(part.replace(",", "."))));
    else say("Proportions are two numbers, as 210:297. Nothing was changed.");
  }

  /** Cut to proportions; lying or upright as the crop is now, but for typed ones. @param {number[]} pair */
  #cut([a, b]) {
    const [w, h] = this.bench.framing.crop.size;
    const turns = this.#chosen !== "typed" && (a > b) !== (w > h) && a !== b && w !== h;
    const ratio = turns ? [b, a] : [a, b];
    this.bench.framing.ratio = ratio[0] / ratio[1];
    this.bench.framing.deed("ratio", { ratio });
  }

  /** Upright becomes lying. */
  #exchange() {
    const { framing } = this.bench;
    const [w, h] = framing.crop.size;
    if (framing.ratio) framing.ratio = 1 / framing.ratio;
    framing.deed("ratio", { ratio: [h, w] });
  }

  /** @param {HTMLInputElement} input */
  #turn(input) {
    const now = numberOf(input.value);
    if (now === null) this.#refuse("The turn is a number of degrees.");
    else this.bench.framing.deed("turn", { by: now - (this.bench.session.state.frame?.turn ?? 0) });
  }

  #numbers(/** @type {string} */ selector) { return all(this.bench.root, `#desk ${selector}`, HTMLInputElement).map((input) => numberOf(input.value)); }

  #size() {
    const size = this.#numbers("[data-frame-size]");
    if (size.some((value) => value === null)) this.#refuse("The size is two whole numbers of pixels.");
    else if (this.bench.framing.tool === "corners") this.bench.session.edit("set-frame", { frame: { size } });
    else this.bench.framing.deed("size", { size });
  }

  #corners() {
    const found = this.#numbers("[data-frame-corner]");
    const corners = [0, 2, 4, 6].map((i) => [found[i], found[i + 1]]);
    if (found.some((value) => value === null)) this.#refuse("A corner is two numbers of pixels.");
    else this.bench.session.edit("set-frame", { frame: { corners } });
  }

  /** @param {string} words */
  #refuse(words) {
    say(`${words} Nothing was changed.`);
    this.bench.session.catchUp();
  }

  /** All sides by what is typed, in pixels or per cent of the shorter side. @param {number} below */
  #border(below) {
    const text = this.#at("#frame-border-all").value || EVEN;
    const number = numberOf(text.replace("%", "").replace("px", ""));
    if (number === null) this.#refuse("A border is a number of pixels, or per cent of the shorter side.");
    else this.bench.session.edit("border", { amount: number, unit: text.includes("%") ? "%" : "px", below });
  }
}
