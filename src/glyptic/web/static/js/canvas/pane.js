/**
 * The tiles of one state of the picture, on a mosaic of their own. What is there stays until something newer is here: a
 * new mosaic starts as a scaled copy of the old one.
 */

import { Mosaic, TILE } from "./mosaic.js";

/**
 * @typedef {import("./canvas.js").TileKeys} TileKeys
 * @typedef {import("./canvas.js").Looking} Looking
 * @typedef {import("./canvas.js").Canvas} Canvas
 */

export class Pane {
  /** @type {Mosaic | null} */
  mosaic = null;
  /** The whole picture, small, so that what comes into sight is never blank. @type {Mosaic | null} */
  under = null;
  /** @type {OffscreenCanvas | null} */
  #spare = null;
  #canvas;
  #store;

  /** @param {Canvas} canvas @param {import("./tiles.js").TileStore} store */
  constructor(canvas, store) {
    this.#canvas = canvas;
    this.#store = store;
  }

  /** Lay a new mosaic over an area of a level, where the one there is does not hold it. @param {import("./mosaic.js").Area} area @param {number} level */
  lay(area, level) {
    const old = this.mosaic;
    if (old?.holds(area, level)) return;
    const { transparent, surround } = this.#canvas;
    const made = new Mosaic(level, area, transparent, this.#spare);
    this.#spare = old?.canvas ?? null;
    if (!transparent) made.fill(surround);
    if (this.under) made.startFrom(this.under);
    if (old) {
      made.startFrom(old);
      const still = new Set(made.wanted.values());
      for (const key of old.wanted.values()) if (!still.has(key)) this.#store.giveUp(key);
    }
    this.mosaic = made;
  }

  /** Let go of everything: what is shown is of another size. */
  clear() {
    this.giveUp();
    this.mosaic = null;
    this.under = null;
  }

  /** Show these tiles of a level; resolves when all are here (or no longer wanted). @param {TileKeys} keys @param {number} level */
  async show(keys, level) {
    const { mosaic } = this;
    if (!mosaic || mosaic.level !== level) return;
    const wanted = new Set(keys.map(([, , key]) => key));
    for (const [tx, ty, key] of keys) {
      const before = mosaic.wanted.get(`${tx} ${ty}`);
      if (before && !wanted.has(before)) this.#store.giveUp(before);
      mosaic.wanted.set(`${tx} ${ty}`, key);
    }
    let put = false;
    const coming = [];
    for (const [tx, ty, key] of keys) {
      if (mosaic.shown.get(`${tx} ${ty}`) === key) continue;
      const here = this.#store.peek(key);
      if (here) {
        mosaic.put(here, tx, ty, key);
        put = true;
      } else {
        coming.push(this.#bring(level, tx, ty, key));
      }
    }
    if (put) this.#canvas.draw();
    await Promise.all(coming);
  }

  /** Whether these tiles are what it shows. @param {TileKeys} keys @param {number} level */
  shows(keys, level) {
    const { mosaic } = this;
    return mosaic?.level === level && keys.every(([tx, ty, key]) => mosaic.shown.get(`${tx} ${ty}`) === key);
  }

  /** @param {number} level @param {number} tx @param {number} ty @param {string} key */
  async #bring(level, tx, ty, key) {
    const canvas = this.#canvas;
    canvas.count(1);
    try {
      const pixels = await this.#store.fetch(key, ...canvas.tileSize(level, tx, ty));
      const { mosaic } = this;
      if (mosaic?.level !== level || mosaic.wanted.get(`${tx} ${ty}`) !== key) return;
      mosaic.put(pixels, tx, ty, key);
      canvas.draw();
    } catch (error) {
      if (!(error instanceof DOMException && error.name === "AbortError")) canvas.dispatchEvent(new Event("missed"));
    } finally {
      canvas.count(-1);
    }
  }

  /** Keep the whole picture, small. @param {TileKeys} keys @param {Looking} looking */
  async keepOverview(keys, { level, rect }) {
    const canvas = this.#canvas;
    const made = new Mosaic(level, { tx: 0, ty: 0, columns: Math.ceil(rect[2] / TILE), rows: Math.ceil(rect[3] / TILE) }, canvas.transparent);
    const tiles = await Promise.all(keys.map(([tx, ty, key]) => this.#store.fetch(key, ...canvas.tileSize(level, tx, ty))));
    tiles.forEach((pixels, i) => made.put(pixels, keys[i][0], keys[i][1], keys[i][2]));
    this.under = made;
    if (this.mosaic?.isBlank) {
      this.mosaic.startFrom(made);
      canvas.draw();
    }
  }

  /** Give up the tiles that are on their way: something newer is coming. */
  giveUp() {
    for (const key of this.mosaic?.wanted.values() ?? []) this.#store.giveUp(key);
  }

  /** Put pixels over a rectangle of the level, until the true tiles come. @param {ImageData} pixels @param {number[]} rect */
  putPatch(pixels, [x, y]) {
    this.giveUp();
    this.mosaic?.patch(pixels, x, y);
  }

  /** Put a picture of a rectangle of a level, perhaps a coarser one, until the true tiles come. @param {ImageBitmap} picture @param {number[]} rect @param {number} level */
  putScaled(picture, rect, level) {
    this.giveUp();
    this.mosaic?.putScaled(picture, rect, level);
  }
}
