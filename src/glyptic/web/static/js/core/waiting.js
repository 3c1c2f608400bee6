/** What takes longer than a moment says so, and can be stopped. */

import { busyWith } from "./busy.js";
import { find } from "./dom.js";

/** @typedef {import("./bench.js").Bench} Bench */

const PATIENCE = 400;

export class Waiting {
  #box;
  #words;
  #stop;
  #timer = 0;
  /** @type {AbortController | null} */
  #stopping = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.#box = find(bench.stage, "#waiting", HTMLElement);
    this.#words = find(this.#box, "span", HTMLElement);
    this.#stop = find(this.#box, "button", HTMLElement);
    bench.events.on("click", "#waiting button", () => this.stop());
    bench.canvas.addEventListener("waiting", (event) => this.#forTiles(/** @type {CustomEvent} */ (event).detail));
  }

  /** Tiles are on their way, or all are here. @param {number} count */
  #forTiles(count) {
    if (this.#stopping) return;
    clearTimeout(this.#timer);
    if (count) this.#timer = setTimeout(() => this.#show("Working …", false), PATIENCE);
    else this.#box.hidden = true;
  }

  /** @param {string} words @param {boolean} stops */
  #show(words, stops) {
    this.#words.textContent = words;
    this.#stop.hidden = !stops;
    this.#box.hidden = false;
  }

  /** Stop what is under way; false if nothing that can be stopped is. */
  stop() {
    if (!this.#stopping) return false;
    this.#stopping.abort();
    return true;
  }

  /**
   * Do something that may take a while: its words are shown, and a way to stop.
   * @template T
   * @param {string} words
   * @param {(signal: AbortSignal) => Promise<T>} deed
   */
  async during(words, deed) {
    const stopping = new AbortController();
    this.#stopping = stopping;
    const timer = setTimeout(() => this.#show(words, true), PATIENCE);
    try {
      return await busyWith(deed(stopping.signal));
    } finally {
      clearTimeout(timer);
      if (this.#stopping === stopping) this.#stopping = null;
      this.#box.hidden = true;
    }
  }
}
