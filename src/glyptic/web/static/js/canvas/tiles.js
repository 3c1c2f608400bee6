/**
 * Tiles by key: fetched once, kept within a budget of bytes; what is on its way is not asked for twice, and what is no
 * longer wanted is given up. Those wanted in one go are asked for a few at a time: a request costs a browser more than
 * the pixels in it.
 */

import { busyWith } from "../core/busy.js";
import { pixelsOf } from "./colours.js";

const BUDGET = 256 * 2 ** 20;
/** Requests a browser has under way with one server, and the most tiles of one. */
const [CONNECTIONS, TOGETHER] = [6, 8];

/** How many requests are worth while: no more than there are processors, where browser and server share them. */
const atOnce = () => Math.min(CONNECTIONS, Math.max(2, navigator.hardwareConcurrency || CONNECTIONS));

export class TileStore {
  #kept = new Map();
  #coming = new Map();
  #waiting = new Set();
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
    let tile = this.#coming.get(key);
    if (!tile) {
      tile = { key, width, height, idle, group: null };
      tile.pixels = new Promise((resolve, reject) => { Object.assign(tile, { resolve, reject }); });
      this.#coming.set(key, tile);
      this.#waiting.add(tile);
      if (this.#waiting.size === 1) queueMicrotask(() => this.#send());
    }
    return idle ? tile.pixels : busyWith(tile.pixels);
  }

  /** Give up what is on its way: its Promise fails with an AbortError; whoever wants it again asks anew. */
  giveUp(key) {
    const tile = this.#coming.get(key);
    if (!tile) return;
    this.#coming.delete(key);
    this.#waiting.delete(tile);
    tile.reject(new DOMException("no longer wanted", "AbortError"));
    tile.group?.wanted.delete(tile);
    if (tile.group?.wanted.size === 0) tile.group.given.abort();
  }

  /** Ask for what was wanted in one go, in as few requests as keep every connection at work. */
  #send() {
    const tiles = [...this.#waiting];
    this.#waiting.clear();
    const size = Math.min(TOGETHER, Math.ceil(tiles.length / atOnce()));
    for (let i = 0; i < tiles.length; i += size) this.#get(tiles.slice(i, i + size));
  }

  async #get(tiles) {
    const group = { wanted: new Set(tiles), given: new AbortController() };
    for (const tile of tiles) tile.group = group;
    const priority = tiles.every(({ idle }) => idle) ? "low" : "auto";
    try {
      const response = await fetch(`/pixels/${tiles.map(({ key }) => key).join("+")}.rgba`, { signal: group.given.signal, priority });
      if (!response.ok) throw new Error(`tile ${response.status}`);
      const bytes = await response.arrayBuffer();
      let at = 0;
      for (const tile of tiles) {
        const end = at + 4 * tile.width * tile.height;
        const pixels = pixelsOf(bytes.slice(at, end), tile.width, tile.height);
        at = end;
        this.#keep(tile.key, pixels);
        tile.resolve(pixels);
      }
    } catch (error) {
      for (const tile of tiles) tile.reject(error);
    } finally {
      for (const tile of tiles) if (this.#coming.get(tile.key) === tile) this.#coming.delete(tile.key);
    }
  }

  #keep(key, pixels) {
    if (this.#kept.has(key)) return;
    this.#kept.set(key, pixels);
    this.#bytes += pixels.data.length;
    for (const [old, dropped] of this.#kept) {
      if (this.#bytes <= BUDGET) break;
      this.#kept.delete(old);
      this.#bytes -= dropped.data.length;
    }
  }
}
