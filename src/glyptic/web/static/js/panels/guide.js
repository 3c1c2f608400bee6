/** The first steps: six small ones on a demo plate, each done when the plate shows that it is. */

import { find } from "../core/dom.js";
import { keep, recall } from "../core/store.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const STORED = "glyptic-first-steps";
const ASKED = "first-steps";

/** What tells that a step was taken, by its name. @type {Record<string, (bench: Bench, start: any) => boolean>} */
const DONE = {
  look: ({ canvas }) => !canvas.fitted,
  add: ({ session }, start) => session.state.revision !== start.revision && session.state.target.kind === "curves",
  set: ({ session }) => Object.values(session.state.curves).some((path) => path !== session.state.straight),
  mask: ({ session }) => session.state.target.masked && session.state.target.strokes > 0,
  compare: ({ showing, comparing }) => showing.view === "before" || comparing.held === "before",
  undo: ({ session }) => session.state.redo !== null,
};

export class Guide {
  #at = 0;
  /** How the plate was when the step began. @type {any} */
  #start = {};

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.box = find(bench.root, "#guide", HTMLElement);
    this.steps = [...this.box.querySelectorAll("[data-step]")].map((step) => /** @type {HTMLElement} */ (step));
    const { events, session, showing, canvas } = bench;
    events.on("click", "#guide [data-skip]", () => this.#begin(this.#at + 1));
    events.on("click", "#guide [data-end]", () => this.#end());
    for (const [source, type] of /** @type {[EventTarget, string][]} */ ([[session, "state"], [showing, "view"], [showing, "held"], [canvas, "moved"]])) source.addEventListener(type, () => this.#watch());
    const asked = new URLSearchParams(location.search).has(ASKED);
    if (asked || (bench.root.dataset.demo === "yes" && !recall(STORED, false))) this.#begin(0);
  }

  /** @param {number} step */
  #begin(step) {
    this.#at = step;
    if (step >= this.steps.length) {
      this.#end();
      return;
    }
    this.#start = { ...this.bench.session.state };
    this.box.hidden = false;
    this.steps.forEach((one, i) => { one.hidden = i !== step; });
  }

  #watch() {
    if (this.box.hidden) return;
    const name = this.steps[this.#at]?.dataset.step ?? "";
    if (DONE[name]?.(this.bench, this.#start)) this.#begin(this.#at + 1);
  }

  /** Never again, unless it is asked for. */
  #end() {
    keep(STORED, true);
    this.box.hidden = true;
  }
}
