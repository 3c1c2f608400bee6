/**
 * Tiles by key: fetched once, kept within a budget of bytes; what is on its way is not asked for twice, and what is no
 * longer wanted is given up.
 */

import { busyWith } from "./busy.js";

const BUDGET = 256 * 2 ** 20;

export class TileStore {
  #kept = new Map();
  #coming = new Map();
  #bytes = 0;

  /** Whether the pixels of a key are here. */
  has(key) { return this.#kept.has(key); }

  /** The pixels of a key if they are here. */
  peek(key) {
    const found = this.#kept.get(key);
    if (found) {
      this.#kept.delete(key);
      this.#kept.set(key, found);
    }
    return found;
  }

  /** The pixels of a key: a Promise of ImageData. `idle`: nobody waits for them yet. */
  fetch(key, width, height, idle = false) {
    const here = this.peek(key);
    if (here) return Promise.resolve(here);
    let coming = this.#coming.get(key);
    if (!coming) {
      const started = { given: new AbortController() };
      started.pixels = this.#get(key, width, height, started.given.signal, idle).finally(() => {
        if (this.#coming.get(key) === started) this.#coming.delete(key);
      });
      this.#coming.set(key, started);
      coming = started;
    }
    return idle ? coming.pixels : busyWith(coming.pixels);
  }

  /** Give up what is on its way: its Promise fails with an AbortError; whoever wants it again asks anew. */
  giveUp(key) {
    this.#coming.get(key)?.given.abort();
    this.#coming.delete(key);
  }

  async #get(key, width, height, signal, idle) {
    const response = await fetch(`/pixels/${key}.rgba`, { signal, priority: idle ? "low" : "auto" });
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
