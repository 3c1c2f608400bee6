/**
 * The canvas: where the picture lies on the screen, and the tiles it is drawn from.
 *
 * Tiles of one level stand side by side in a mosaic that is drawn to the screen in one piece. What is on screen
 * stays until something newer is here: a new mosaic starts as a scaled copy of the old one.
 */

import { begin, end } from "./busy.js";
import { TileStore } from "./tiles.js";

const TILE = 256;
const LARGEST_SCALE = 32;
const MARGIN = 12;
const OVERVIEW = 768;
const NEXT = 1024;
/** Milliseconds without a change after which the picture counts as still. */
const STILL = 160;
/** How many of its neighbours a pixel is smoothed with when the picture is drawn smaller. */
const SMOOTHED = 3;

const clamp = (v, most) => Math.min(most, Math.max(0, v));

class Mosaic {
  /** spare: the canvas of a mosaic that is no longer needed, used again where it is large enough. */
  constructor(level, area, spare = null) {
    Object.assign(this, { level, ...area });
    const fits = spare && spare.width >= this.width && spare.height >= this.height;
    this.canvas = fits ? spare : new OffscreenCanvas(this.width + TILE, this.height + TILE);
    this.pen = this.canvas.getContext("2d", { alpha: false, willReadFrequently: false });
    this.wanted = new Map();
    this.shown = new Map();
    /** Whether nothing was drawn on it so far. */
    this.isBlank = true;
  }

  get width() { return this.columns * TILE; }
  get height() { return this.rows * TILE; }
  get left() { return this.tx * TILE; }
  get top() { return this.ty * TILE; }

  holds(area, level) {
    return level === this.level && area.tx === this.tx && area.ty === this.ty
      && area.columns === this.columns && area.rows === this.rows;
  }

  startFrom(old) {
    this.isBlank &&= old.isBlank;
    const ratio = 2 ** (old.level - this.level);
    this.pen.imageSmoothingQuality = "high";
    this.pen.drawImage(
      old.canvas, 0, 0, old.width, old.height,
      old.left * ratio - this.left, old.top * ratio - this.top, old.width * ratio, old.height * ratio,
    );
    if (old.level !== this.level) return;
    const here = ([place]) => {
      const [tx, ty] = place.split(" ").map(Number);
      return this.covers(tx, ty) && old.covers(tx, ty);
    };
    for (const [place, key] of [...old.shown].filter(here)) this.shown.set(place, key);
    for (const [place, key] of [...old.wanted].filter(here)) this.wanted.set(place, key);
  }

  covers(tx, ty) {
    return tx >= this.tx && ty >= this.ty && tx < this.tx + this.columns && ty < this.ty + this.rows;
  }

  put(pixels, tx, ty, key) {
    this.isBlank = false;
    this.pen.putImageData(pixels, (tx - this.tx) * TILE, (ty - this.ty) * TILE);
    this.shown.set(`${tx} ${ty}`, key);
  }

  /** Put a changed rectangle; tiles under it no longer count as any known state. */
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
}

export class Canvas extends EventTarget {
  #store = new TileStore();
  #mosaic = null;
  #spare = null;
  #under = null;
  #painted = false;
  #changed = null;
  #outstanding = 0;
  #moving = 0;

  constructor(stage, width, height) {
    super();
    this.stage = stage;
    this.element = stage.querySelector("canvas");
    this.pen = this.element.getContext("2d", { alpha: false });
    this.width = width;
    this.height = height;
    this.scale = 0;
    this.x = 0;
    this.y = 0;
    this.fitted = true;
    new ResizeObserver(() => this.#resized()).observe(stage);
  }

  get ready() { return this.#mosaic !== null; }

  get density() { return globalThis.devicePixelRatio || 1; }

  get deepest() {
    let level = 0;
    while (Math.max(Math.ceil(this.width / 2 ** (level + 1)), Math.ceil(this.height / 2 ** (level + 1))) >= 64) level += 1;
    return level;
  }

  get level() {
    return this.scale >= 1 ? 0 : Math.min(this.deepest, Math.max(0, Math.floor(Math.log2(1 / this.scale) + 1e-9)));
  }

  /** Full-size picture coordinates of a pointer event. */
  at(event) {
    const box = this.stage.getBoundingClientRect();
    return {
      x: ((event.clientX - box.left) * this.density - this.x) / this.scale,
      y: ((event.clientY - box.top) * this.density - this.y) / this.scale,
    };
  }

  /** CSS pixels on the stage of picture coordinates. */
  onStage(x, y) {
    return { x: (x * this.scale + this.x) / this.density, y: (y * this.scale + this.y) / this.density };
  }

  #resized() {
    const { clientWidth, clientHeight } = this.stage;
    if (!clientWidth || !clientHeight) return;
    this.element.width = Math.round(clientWidth * this.density);
    this.element.height = Math.round(clientHeight * this.density);
    if (this.fitted || !this.scale) this.fit();
    else this.#moved();
  }

  get #fitScale() {
    const room = MARGIN * this.density;
    return Math.min((this.element.width - room) / this.width, (this.element.height - room) / this.height);
  }

  /** Bring a place of the picture to the middle of the screen, at a scale. */
  showPlace(x, y, scale) {
    this.scale = Math.min(LARGEST_SCALE, Math.max(this.#fitScale, scale));
    this.x = this.element.width / 2 - x * this.scale;
    this.y = this.element.height / 2 - y * this.scale;
    this.fitted = false;
    this.#moved();
  }

  fit() {
    this.scale = Math.min(this.#fitScale, LARGEST_SCALE);
    this.x = (this.element.width - this.width * this.scale) / 2;
    this.y = (this.element.height - this.height * this.scale) / 2;
    this.fitted = true;
    this.#moved();
  }

  /** Zoom so that the picture point under (x, y), device pixels on the canvas, stays there. */
  zoomAt(x, y, scale) {
    const least = Math.min(this.#fitScale / 4, 1);
    const wanted = Math.min(LARGEST_SCALE, Math.max(least, scale));
    this.x = x - ((x - this.x) / this.scale) * wanted;
    this.y = y - ((y - this.y) / this.scale) * wanted;
    this.scale = wanted;
    this.fitted = false;
    this.#moved();
  }

  oneToOne(event) {
    const box = this.stage.getBoundingClientRect();
    const inside = event && event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom;
    const x = inside ? (event.clientX - box.left) * this.density : this.element.width / 2;
    const y = inside ? (event.clientY - box.top) * this.density : this.element.height / 2;
    this.zoomAt(x, y, 1);
    this.x = Math.round(this.x);
    this.y = Math.round(this.y);
    this.#moved();
  }

  pan(dx, dy) {
    const keep = 60 * this.density;
    this.x = Math.min(this.element.width - keep, Math.max(keep - this.width * this.scale, this.x + dx * this.density));
    this.y = Math.min(this.element.height - keep, Math.max(keep - this.height * this.scale, this.y + dy * this.density));
    this.fitted = false;
    this.#moved();
  }

  #moved() {
    const area = this.#area();
    if (!this.#mosaic?.holds(area, this.level)) {
      const made = new Mosaic(this.level, area, this.#spare);
      this.#spare = this.#mosaic?.canvas ?? null;
      made.pen.fillStyle = getComputedStyle(this.stage).backgroundColor;
      made.pen.fillRect(0, 0, made.width, made.height);
      if (this.#under) made.startFrom(this.#under);
      if (this.#mosaic) {
        made.startFrom(this.#mosaic);
        const still = new Set(made.wanted.values());
        for (const key of this.#mosaic.wanted.values()) if (!still.has(key)) this.#store.giveUp(key);
      }
      this.#mosaic = made;
    }
    this.#inMotion();
    this.draw();
    this.dispatchEvent(new Event("moved"));
  }

  /** While anything moves it is drawn quickly; when it has come to rest, once more and well. */
  #inMotion() {
    if (this.#moving) clearTimeout(this.#moving);
    else begin();
    this.#moving = setTimeout(() => {
      this.#moving = 0;
      this.draw();
      end();
    }, STILL);
  }

  /** The tiles that are on screen. */
  #area() {
    const step = this.scale * 2 ** this.level * TILE;
    const across = Math.ceil(Math.ceil(this.width / 2 ** this.level) / TILE);
    const down = Math.ceil(Math.ceil(this.height / 2 ** this.level) / TILE);
    const tx = clamp(Math.floor(-this.x / step), across - 1);
    const ty = clamp(Math.floor(-this.y / step), down - 1);
    return {
      tx, ty,
      columns: clamp(Math.ceil((this.element.width - this.x) / step), across) - tx || 1,
      rows: clamp(Math.ceil((this.element.height - this.y) / step), down) - ty || 1,
    };
  }

  /** What the server is asked about: the level and the rectangle of its tiles on screen. */
  looking(view, layer) {
    const { tx, ty, columns, rows } = this.#mosaic ?? this.#area();
    return { view, layer, level: this.level, rect: [tx * TILE, ty * TILE, columns * TILE, rows * TILE] };
  }

  /** What may come into sight next: a tile more on every side, and the middle of the next finer level. */
  *lookingSoon(view, layer) {
    const looking = this.looking(view, layer);
    const [x, y, w, h] = looking.rect;
    yield { ...looking, rect: [x - TILE, y - TILE, w + 2 * TILE, h + 2 * TILE] };
    if (!looking.level) return;
    const middle = [2 * x + w - NEXT / 2, 2 * y + h - NEXT / 2].map(Math.round);
    yield { ...looking, level: looking.level - 1, rect: [...middle, NEXT, NEXT] };
  }

  /** What the server is asked about while something is dragged: as `looking`, `coarser` levels further out. */
  lookingCoarser(view, layer, coarser) {
    const looking = this.looking(view, layer);
    const by = Math.min(coarser, this.deepest - looking.level);
    const [x, y, w, h] = looking.rect.map((v) => v / 2 ** by);
    const left = Math.floor(x);
    const top = Math.floor(y);
    return { ...looking, level: looking.level + by, rect: [left, top, Math.ceil(x + w) - left, Math.ceil(y + h) - top] };
  }

  /**
   * Show a JPEG of a rectangle of a level, perhaps a coarser one, until the true tiles come, unless `current()` says
   * that it is too late.
   */
  async showQuick(jpeg, [x, y, w, h], level, current) {
    const mosaic = this.#mosaic;
    const exact = { colorSpaceConversion: "none", premultiplyAlpha: "none" };
    const picture = await createImageBitmap(new Blob([jpeg], { type: "image/jpeg" }), exact);
    if (!mosaic || mosaic !== this.#mosaic || !current()) {
      picture.close();
      return;
    }
    const ratio = 2 ** (level - mosaic.level);
    mosaic.isBlank = false;
    mosaic.pen.imageSmoothingQuality = "high";
    mosaic.pen.drawImage(picture, x * ratio - mosaic.left, y * ratio - mosaic.top, w * ratio, h * ratio);
    picture.close();
    this.#inMotion();
    for (const key of mosaic.wanted.values()) this.#store.giveUp(key);
    mosaic.shown.clear();
    mosaic.wanted.clear();
    this.draw();
  }

  #tileSize(level, tx, ty) {
    const size = 2 ** level;
    return [Math.min(TILE, Math.ceil(this.width / size) - tx * TILE), Math.min(TILE, Math.ceil(this.height / size) - ty * TILE)];
  }

  /** Show these tiles, [[tx, ty, key], ...] of a level; resolves when all are on screen (or no longer wanted). */
  async show(keys, level) {
    const mosaic = this.#mosaic;
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
    if (put) this.draw();
    await Promise.all(coming);
  }

  /** Whether tiles can be shown at once: all of them are here. */
  has(keys) { return keys.every(([, , key]) => this.#store.has(key)); }

  /** Fetch tiles that may be wanted soon, one after the other, as long as `current()` says so. */
  async prepare(keys, level, current) {
    for (const [tx, ty, key] of keys) {
      if (!current()) return;
      if (this.#store.has(key)) continue;
      await this.#store.fetch(key, ...this.#tileSize(level, tx, ty), true).catch(() => {});
    }
  }

  async #bring(level, tx, ty, key) {
    const [width, height] = this.#tileSize(level, tx, ty);
    this.#count(1);
    try {
      const pixels = await this.#store.fetch(key, width, height);
      const mosaic = this.#mosaic;
      if (mosaic.level !== level || mosaic.wanted.get(`${tx} ${ty}`) !== key) return;
      mosaic.put(pixels, tx, ty, key);
      this.draw();
    } catch (error) {
      if (error.name !== "AbortError") this.dispatchEvent(new Event("missed"));
    } finally {
      this.#count(-1);
    }
  }

  /** What the server is asked about for the overview: the whole picture at a small level. */
  overview(view, layer) {
    let level = this.level;
    while (level < this.deepest && Math.max(this.width, this.height) / 2 ** level > OVERVIEW) level += 1;
    return { view, layer, level, rect: [0, 0, Math.ceil(this.width / 2 ** level), Math.ceil(this.height / 2 ** level)] };
  }

  /** Keep the whole picture, small, so that what comes into sight is never blank. */
  async keepOverview(keys, { level, rect }) {
    const made = new Mosaic(level, { tx: 0, ty: 0, columns: Math.ceil(rect[2] / TILE), rows: Math.ceil(rect[3] / TILE) });
    const tiles = await Promise.all(keys.map(([tx, ty, key]) => this.#store.fetch(key, ...this.#tileSize(level, tx, ty))));
    tiles.forEach((pixels, i) => made.put(pixels, keys[i][0], keys[i][1], keys[i][2]));
    this.#under = made;
    if (this.#mosaic?.isBlank) {
      this.#mosaic.startFrom(made);
      this.draw();
    }
  }

  #count(change) {
    this.#outstanding += change;
    this.dispatchEvent(new CustomEvent("waiting", { detail: this.#outstanding }));
  }

  /** Put a rectangle of a level that came back while a stroke is drawn. */
  patch(bytes, [x, y, w, h], level) {
    if (!w || !h || !this.#mosaic || this.#mosaic.level !== level) return;
    this.#mosaic.patch(new ImageData(new Uint8ClampedArray(bytes), w, h), x, y);
    this.draw(this.#onScreen(x, y, w, h));
  }

  /** The pixels of the screen, [left, top, right, bottom], that a rectangle of the mosaic's level shows in. */
  #onScreen(x, y, w, h) {
    const step = this.scale * 2 ** this.#mosaic.level;
    const margin = Math.ceil(SMOOTHED * Math.max(step, 1));
    return [
      Math.floor(this.x + x * step) - margin, Math.floor(this.y + y * step) - margin,
      Math.ceil(this.x + (x + w) * step) + margin, Math.ceil(this.y + (y + h) * step) + margin,
    ];
  }

  /** Draw with the next frame: all of it, or what lies in a part of the screen, [left, top, right, bottom]. */
  draw(part = [0, 0, this.element.width, this.element.height]) {
    const [left, top, right, bottom] = this.#changed ?? part;
    this.#changed = [Math.min(left, part[0]), Math.min(top, part[1]), Math.max(right, part[2]), Math.max(bottom, part[3])];
    if (this.#painted) return;
    this.#painted = true;
    begin();
    requestAnimationFrame(() => {
      this.#painted = false;
      this.#paint();
      end();
    });
  }

  #paint() {
    const { pen } = this;
    const [left, top, right, bottom] = this.#changed;
    this.#changed = null;
    pen.save();
    pen.beginPath();
    pen.rect(left, top, right - left, bottom - top);
    pen.clip();
    pen.fillStyle = getComputedStyle(this.stage).backgroundColor;
    pen.fillRect(left, top, right - left, bottom - top);
    if (this.#mosaic) this.#paintMosaic(this.#mosaic);
    pen.restore();
    this.dispatchEvent(new Event("painted"));
  }

  #paintMosaic(mosaic) {
    const { pen } = this;
    const step = this.scale * 2 ** mosaic.level;
    pen.beginPath();
    pen.rect(this.x, this.y, this.width * this.scale, this.height * this.scale);
    pen.clip();
    pen.imageSmoothingEnabled = step < 2;
    pen.imageSmoothingQuality = this.#moving ? "low" : "high";
    pen.drawImage(
      mosaic.canvas, 0, 0, mosaic.width, mosaic.height,
      this.x + mosaic.left * step, this.y + mosaic.top * step, mosaic.width * step, mosaic.height * step,
    );
  }
}
