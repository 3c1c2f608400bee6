/** The hatch over a mask: its colour and how strongly it covers, kept in this browser. */

import { find } from "../core/dom.js";
import { keep, recall } from "../core/store.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const STORED = "glyptic-hatch";

export class Hatch extends EventTarget {
  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.box = find(bench.root, "#hatch", HTMLElement);
    this.colour = find(this.box, 'input[type="color"]', HTMLInputElement);
    this.strength = find(this.box, 'input[type="range"]', HTMLInputElement);
    [this.colour.value, this.strength.value] = recall(STORED, [this.colour.value, this.strength.value]);
    bench.events.on("change", "#hatch", () => {
      keep(STORED, [this.colour.value, this.strength.value]);
      this.dispatchEvent(new Event("change"));
    });
  }

  /** [r, g, b, strength], each 0..1. */
  get values() {
    return [...[1, 3, 5].map((at) => Number.parseInt(this.colour.value.slice(at, at + 2), 16) / 255), Number(this.strength.value) / 100];
  }

  /** Its controls are there while a hatch is on screen. @param {boolean} shown */
  show(shown) { this.box.hidden = !shown; }
}
