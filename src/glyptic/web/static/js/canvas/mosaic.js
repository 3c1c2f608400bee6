/** Tiles of one level side by side, drawn to the screen in one piece. */

import { penOf } from "./colours.js";

export const TILE = 256;

/** @typedef {{ tx: number, ty: number, columns: number, rows: number }} Area */

/** @param {string} place @returns {[number, number]} */
const placeOf = (place) => {
  const [tx, ty] = place.split(" ").map(Number);
  return [tx, ty];
};

export class Mosaic {
  /** The keys that are to be shown and those that are, by place. @type {Map<string, string>} */
  wanted = new Map();
  /** @type {Map<string, string>} */
  shown = new Map();
  /** Whether nothing was drawn on it so far. */
  isBlank = true;

  /**
   * @param {number} level
   * @param {Area} area
   * @param {boolean} alpha whether the picture lets through what lies under it
   * @param {OffscreenCanvas | null} spare the canvas of a mosaic that is no longer needed, used again where it is large enough
   */
  constructor(level, { tx, ty, columns, rows }, alpha, spare = null) {
    this.level = level;
    this.tx = tx;
    this.ty = ty;
    this.columns = columns;
    this.rows = rows;
    const fits = spare && spare.width >= this.width && spare.height >= this.height;
    this.canvas = fits ? spare : new OffscreenCanvas(this.width + TILE, this.height + TILE);
    this.alpha = alpha;
    this.pen = /** @type {OffscreenCanvasRenderingContext2D} */ (penOf(this.canvas, { alpha, willReadFrequently: false }));
  }

  get width() { return this.columns * TILE; }
  get height() { return this.rows * TILE; }
  get left() { return this.tx * TILE; }
  get top() { return this.ty * TILE; }

  /** @param {Area} area @param {number} level */
  holds(area, level) {
    return level === this.level && area.tx === this.tx && area.ty === this.ty && area.columns === this.columns && area.rows === this.rows;
  }

  /** @param {string} colour */
  fill(colour) {
    this.pen.clearRect(0, 0, this.width, this.height);
    this.pen.fillStyle = colour;
    this.pen.fillRect(0, 0, this.width, this.height);
  }

  /** What is here starts as a scaled copy of another mosaic. @param {Mosaic} old */
  startFrom(old) {
    this.isBlank &&= old.isBlank;
    const ratio = 2 ** (old.level - this.level);
    this.pen.imageSmoothingQuality = "high";
    this.pen.drawImage(
      old.canvas, 0, 0, old.width, old.height,
      old.left * ratio - this.left, old.top * ratio - this.top, old.width * ratio, old.height * ratio,
    );
    if (old.level !== this.level) return;
    const here = (/** @type {[string, string]} */ [place]) => this.covers(...placeOf(place)) && old.covers(...placeOf(place));
    for (const [place, key] of [...old.shown].filter(here)) this.shown.set(place, key);
    for (const [place, key] of [...old.wanted].filter(here)) this.wanted.set(place, key);
  }

  /** @param {number} tx @param {number} ty */
  covers(tx, ty) {
    return tx >= this.tx && ty >= this.ty && tx < this.tx + this.columns && ty < this.ty + this.rows;
  }

  /** @param {ImageData} pixels @param {number} tx @param {number} ty @param {string} key */
  put(pixels, tx, ty, key) {
    this.isBlank = false;
    this.pen.putImageData(pixels, (tx - this.tx) * TILE, (ty - this.ty) * TILE);
    this.shown.set(`${tx} ${ty}`, key);
  }

  /** Put a changed rectangle; tiles under it no longer count as any known state. @param {ImageData} pixels @param {number} x @param {number} y */
  patch(pixels, x, y) {
    this.pen.putImageData(pixels, x - this.left, y - this.top);
    const last = { tx: Math.floor((x + pixels.width - 1) / TILE), ty: Math.floor((y + pixels.height - 1) / TILE) };
    for (let ty = Math.floor(y / TILE); ty <= last.ty; ty += 1) {
      for (let tx = Math.floor(x / TILE); tx <= last.tx; tx += 1) {
        this.shown.delete(`${tx} ${ty}`);
        this.wanted.delete(`${tx} ${ty}`);
      }
    }
  }

  /** Put a picture of a rectangle of a level, perhaps a coarser one. @param {ImageBitmap} picture @param {number[]} rect @param {number} level */
  putScaled(picture, [x, y, w, h], level) {
    const ratio = 2 ** (level - this.level);
    this.isBlank = false;
    this.pen.imageSmoothingQuality = "high";
    this.pen.globalCompositeOperation = this.alpha ? "source-atop" : "source-over"; // a JPEG has no alpha: what is here keeps its own
    this.pen.drawImage(picture, x * ratio - this.left, y * ratio - this.top, w * ratio, h * ratio);
    this.pen.globalCompositeOperation = "source-over";
    this.shown.clear();
    this.wanted.clear();
  }
}
