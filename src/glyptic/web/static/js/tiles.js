/** Tiles by key: fetched once, kept within a budget of bytes, and what is on its way is not asked for twice. */

import { busyWith } from "./busy.js";

const BUDGET = 256 * 2 ** 20;

export class TileStore {
  #kept = new Map();
  #coming = new Map();
  #bytes = 0;

  /** The pixels of a key if they are here. */
  peek(key) {
    const found = this.#kept.get(key);
    if (found) {
      this.#kept.delete(key);
      this.#kept.set(key, found);
    }
    return found;
  }

  /** The pixels of a key: a Promise of ImageData. */
  fetch(key, width, height) {
    const here = this.peek(key);
    if (here) return Promise.resolve(here);
    if (!this.#coming.has(key)) {
      this.#coming.set(key, busyWith(this.#get(key, width, height)).finally(() => this.#coming.delete(key)));
    }
    return this.#coming.get(key);
  }

  async #get(key, width, height) {
    const response = await fetch(`/pixels/${key}.rgba`);
    if (!response.ok) throw new Error(`tile ${response.status}`);
    const pixels = new ImageData(new Uint8ClampedArray(await response.arrayBuffer()), width, height);
    this.#kept.set(key, pixels);
    this.#bytes += pixels.data.length;
    for (const [old, dropped] of this.#kept) {
      if (this.#bytes <= BUDGET) break;
      this.#kept.delete(old);
      this.#bytes -= dropped.data.length;
    }
    return pixels;
  }
}
