/**
 * The canvas: the tiles that are on screen, and how they are drawn. What is on screen stays until something newer is
 * here: a new mosaic starts as a scaled copy of the old one.
 */

import { begin, end } from "../core/busy.js";
import { clamp, find } from "../core/dom.js";
import { Mosaic, TILE } from "./mosaic.js";
import { Place } from "./place.js";
import { Plane } from "./plane.js";
import { TileStore } from "./tiles.js";

const OVERVIEW = 768;
const NEXT = 1024;
/** Milliseconds without a change after which the picture counts as still. */
const STILL = 160;
/** How many of its neighbours a pixel is smoothed with when the picture is drawn smaller. */
const SMOOTHED = 3;
/** The chequers that show through a picture with alpha: their size on screen and their greys. */
const CHEQUER = 8;
const [CHEQUER_LIGHT, CHEQUER_DARK] = ["#a8a8a8", "#8c8c8c"];

/**
 * @typedef {[number, number, string][]} TileKeys places and keys of tiles
 * @typedef {{ view: string, layer: string, level: number, rect: number[] }} Looking
 */

/** A length in device pixels: as the browser snapped it to whole ones, where what it tells can be that; else to the nearest. @param {number} length @param {number} [told] */
const snapped = (length, told) => (told !== undefined && Math.abs(told - length) < 1 ? told : Math.round(length));

export class Canvas extends EventTarget {
  #store = new TileStore();
  /** @type {Mosaic | null} */
  #mosaic = null;
  /** @type {OffscreenCanvas | null} */
  #spare = null;
  /** @type {Mosaic | null} */
  #under = null;
  #painted = false;
  /** @type {number[] | null} */
  #changed = null;
  #outstanding = 0;
  #moving = 0;
  /** @type {CanvasPattern | null} */
  #chequers = null;
  #transparent;

  /**
   * @param {HTMLElement} stage
   * @param {number} width
   * @param {number} height
   * @param {import("../core/declared").Declared} declared
   */
  constructor(stage, width, height, declared) {
    super();
    this.stage = stage;
    this.element = find(stage, "#canvas", HTMLCanvasElement);
    this.pen = /** @type {CanvasRenderingContext2D} */ (this.element.getContext("2d", { alpha: false }));
    this.width = width;
    this.height = height;
    this.deepest = declared.deepest;
    /** What carries pixels of what is shown to those the chosen layer is drawn in; null where they are the same. @type {Plane | null} */
    this.through = null;
    /** @type {Plane | null} */
    this.back = null;
    this.place = new Place(width, height);
    this.#transparent = declared.transparent;
    this.#observe();
  }

  /** Follow the stage's size in device pixels, whatever the zoom of the browser. */
  #observe() {
    const observer = new ResizeObserver(([entry]) => {
      const box = entry.devicePixelContentBoxSize?.[0];
      const { width, height } = entry.contentRect;
      if (!width || !height) return;
      const density = globalThis.devicePixelRatio || 1;
      this.#resized(snapped(width * density, box?.inlineSize), snapped(height * density, box?.blockSize), density);
    });
    try {
      observer.observe(this.stage, { box: "device-pixel-content-box" });
    } catch {
      observer.observe(this.stage);
    }
  }

  /** @param {number} width @param {number} height @param {number} density */
  #resized(width, height, density) {
    const { place } = this;
    const middle = place.scale ? place.inPicture(place.screen.width / 2, place.screen.height / 2) : null;
    this.element.width = width;
    this.element.height = height;
    place.scale *= density / place.density;
    place.screen = { width, height };
    place.density = density;
    if (place.fitted || !middle) place.fit();
    else place.show(middle.x, middle.y);
    this.#moved();
  }

  get ready() { return this.#mosaic !== null; }
  get density() { return this.place.density; }
  get scale() { return this.place.scale; }
  get fitted() { return this.place.fitted; }

  get level() {
    return this.scale >= 1 ? 0 : clamp(Math.floor(Math.log2(1 / this.scale) + 1e-9), 0, this.deepest);
  }

  /** Device pixels of the canvas under a pointer event. @param {{ clientX: number, clientY: number }} event */
  screenAt(event) {
    const box = this.stage.getBoundingClientRect();
    return { x: (event.clientX - box.left) * this.density, y: (event.clientY - box.top) * this.density };
  }

  /** Full-size coordinates, of what is shown, of a pointer event. @param {{ clientX: number, clientY: number }} event */
  shownAt(event) {
    const { x, y } = this.screenAt(event);
    return this.place.inPicture(x, y);
  }

  /** Full-size coordinates, of what the chosen layer is drawn in, of a pointer event. @param {{ clientX: number, clientY: number }} event */
  at(event) {
    const shown = this.shownAt(event);
    if (!this.through) return shown;
    const [x, y] = this.through.at(shown.x, shown.y);
    return { x, y };
  }

  /** Where what the chosen layer is drawn in is shown. @param {number} x @param {number} y */
  shown(x, y) { return this.back?.at(x, y) ?? [x, y]; }

  /** CSS pixels on the stage of coordinates of what the chosen layer is drawn in. @param {number} x @param {number} y */
  onStage(x, y) {
    const screen = this.place.onScreen(...this.shown(x, y));
    return { x: screen.x / this.density, y: screen.y / this.density };
  }

  /** How many CSS pixels a pixel of what the chosen layer is drawn in is wide, on the whole. */
  get zoom() { return this.scale / this.density / (this.through?.growth(this.width / 2, this.height / 2) ?? 1); }

  /** The same under a pointer. @param {{ clientX: number, clientY: number }} event */
  zoomAt(event) {
    const { x, y } = this.shownAt(event);
    return this.scale / this.density / (this.through?.growth(x, y) ?? 1);
  }

  /** The colour that is shown under a pointer, each channel 0..1. @param {{ clientX: number, clientY: number }} event */
  colourAt(event) {
    const { x, y } = this.screenAt(event);
    return [...this.pen.getImageData(Math.floor(x), Math.floor(y), 1, 1).data].slice(0, 3).map((code) => code / 255);
  }

  /** What is shown is another thing: its size, its deepest level, and what carries it to what is drawn in. A new size is
   * laid anew, in the middle of the screen where it was fitted. @param {number[]} size @param {number} deepest @param {number[] | null} through */
  lay([width, height], deepest, through) {
    this.through = through && new Plane(through);
    this.back = this.through?.inverse ?? null;
    if (width === this.width && height === this.height) return;
    const { place } = this;
    for (const key of this.#mosaic?.wanted.values() ?? []) this.#store.giveUp(key);
    [this.width, this.height, this.deepest] = [width, height, deepest];
    [place.width, place.height] = [width, height];
    this.#mosaic = null;
    this.#under = null;
    this.dispatchEvent(new Event("size"));
    if (place.screen.width) this.move(() => { if (place.fitted) place.fit(); else place.pan(0, 0); });
  }

  /** Change where the picture lies. @param {(place: Place) => void} change */
  move(change) {
    change(this.place);
    this.#moved();
  }

  fit() { this.move((place) => place.fit()); }

  /** Bring a place of the picture to the middle of the screen. @param {number} x @param {number} y @param {number} [scale] */
  showPlace(x, y, scale) { this.move((place) => place.show(x, y, scale)); }

  /** The place of a pointer on the screen, or its middle. @param {{ clientX: number, clientY: number } | null} event */
  #pointed(event) {
    const box = this.stage.getBoundingClientRect();
    const inside = event && event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom;
    return inside ? this.screenAt(event) : { x: this.element.width / 2, y: this.element.height / 2 };
  }

  /** @param {{ clientX: number, clientY: number } | null} event */
  oneToOne(event) {
    const { x, y } = this.#pointed(event);
    this.move((place) => place.oneToOne(x, y));
  }

  /** Zoom by a factor at a pointer, or at the middle of the screen. @param {number} factor @param {{ clientX: number, clientY: number } | null} [event] */
  zoomBy(factor, event = null) {
    const { x, y } = this.#pointed(event);
    this.move((place) => place.zoomAt(x, y, place.scale * factor));
  }

  /** @param {number} dx @param {number} dy CSS pixels */
  pan(dx, dy) { this.move((place) => place.pan(dx * this.density, dy * this.density)); }

  #moved() {
    const area = this.#area();
    if (!this.#mosaic?.holds(area, this.level)) this.#lay(area);
    this.#inMotion();
    this.draw();
    this.dispatchEvent(new Event("moved"));
  }

  /** Lay a new mosaic over an area. @param {import("./mosaic.js").Area} area */
  #lay(area) {
    const made = new Mosaic(this.level, area, this.#transparent, this.#spare);
    const old = this.#mosaic;
    this.#spare = old?.canvas ?? null;
    if (!this.#transparent) made.fill(this.#surround);
    if (this.#under) made.startFrom(this.#under);
    if (old) {
      made.startFrom(old);
      const still = new Set(made.wanted.values());
      for (const key of old.wanted.values()) if (!still.has(key)) this.#store.giveUp(key);
    }
    this.#mosaic = made;
  }

  get #surround() { return getComputedStyle(this.stage).backgroundColor; }

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
    const size = 2 ** this.level;
    const across = Math.ceil(Math.ceil(this.width / size) / TILE);
    const down = Math.ceil(Math.ceil(this.height / size) / TILE);
    const { left, top, right, bottom } = this.place.seen;
    const step = size * TILE;
    const tx = clamp(Math.floor(left / step), 0, across - 1);
    const ty = clamp(Math.floor(top / step), 0, down - 1);
    return {
      tx, ty,
      columns: clamp(Math.ceil(right / step), 0, across) - tx || 1,
      rows: clamp(Math.ceil(bottom / step), 0, down) - ty || 1,
    };
  }

  /** What the server is asked about: the level and the rectangle of its tiles on screen. @param {string} view @param {string} layer @returns {Looking} */
  looking(view, layer) {
    const { tx, ty, columns, rows } = this.#mosaic ?? this.#area();
    return { view, layer, level: this.level, rect: [tx * TILE, ty * TILE, columns * TILE, rows * TILE] };
  }

  /** What may come into sight next: a tile more on every side, and the middle of the next finer level. @param {string} view @param {string} layer */
  *lookingSoon(view, layer) {
    const looking = this.looking(view, layer);
    const [x, y, w, h] = looking.rect;
    yield { ...looking, rect: [x - TILE, y - TILE, w + 2 * TILE, h + 2 * TILE] };
    if (!looking.level) return;
    const middle = [2 * x + w - NEXT / 2, 2 * y + h - NEXT / 2].map(Math.round);
    yield { ...looking, level: looking.level - 1, rect: [...middle, NEXT, NEXT] };
  }

  /** What the server is asked about while something is dragged: as `looking`, `coarser` levels further out. @param {string} view @param {string} layer @param {number} coarser */
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
   * @param {ArrayBuffer} jpeg
   * @param {number[]} rect
   * @param {number} level
   * @param {() => boolean} current
   */
  async showQuick(jpeg, rect, level, current) {
    const mosaic = this.#mosaic;
    const picture = await createImageBitmap(new Blob([jpeg], { type: "image/jpeg" }), { colorSpaceConversion: "none", premultiplyAlpha: "none" });
    if (mosaic && mosaic === this.#mosaic && current()) {
      for (const key of mosaic.wanted.values()) this.#store.giveUp(key);
      mosaic.putScaled(picture, rect, level);
      this.#inMotion();
      this.draw();
    }
    picture.close();
  }

  /** @param {number} level @param {number} tx @param {number} ty @returns {[number, number]} */
  #tileSize(level, tx, ty) {
    const size = 2 ** level;
    return [Math.min(TILE, Math.ceil(this.width / size) - tx * TILE), Math.min(TILE, Math.ceil(this.height / size) - ty * TILE)];
  }

  /** Show these tiles of a level; resolves when all are on screen (or no longer wanted). @param {TileKeys} keys @param {number} level */
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

  /** Whether tiles can be shown at once: all of them are here. @param {TileKeys} keys */
  has(keys) { return keys.every(([, , key]) => this.#store.has(key)); }

  /** Fetch tiles that may be wanted soon, one after the other, as long as `current()` says so. @param {TileKeys} keys @param {number} level @param {() => boolean} current */
  async prepare(keys, level, current) {
    for (const [tx, ty, key] of keys) {
      if (!current()) return;
      if (this.#store.has(key)) continue;
      await this.#store.fetch(key, ...this.#tileSize(level, tx, ty), true).catch(() => {});
    }
  }

  /** @param {number} level @param {number} tx @param {number} ty @param {string} key */
  async #bring(level, tx, ty, key) {
    this.#count(1);
    try {
      const pixels = await this.#store.fetch(key, ...this.#tileSize(level, tx, ty));
      const mosaic = this.#mosaic;
      if (mosaic?.level !== level || mosaic.wanted.get(`${tx} ${ty}`) !== key) return;
      mosaic.put(pixels, tx, ty, key);
      this.draw();
    } catch (error) {
      if (!(error instanceof DOMException && error.name === "AbortError")) this.dispatchEvent(new Event("missed"));
    } finally {
      this.#count(-1);
    }
  }

  /** What the server is asked about for the overview: the whole picture at a small level. @param {string} view @param {string} layer @returns {Looking} */
  overview(view, layer) {
    let { level } = this;
    while (level < this.deepest && Math.max(this.width, this.height) / 2 ** level > OVERVIEW) level += 1;
    return { view, layer, level, rect: [0, 0, Math.ceil(this.width / 2 ** level), Math.ceil(this.height / 2 ** level)] };
  }

  /** Keep the whole picture, small, so that what comes into sight is never blank. @param {TileKeys} keys @param {Looking} looking */
  async keepOverview(keys, { level, rect }) {
    const made = new Mosaic(level, { tx: 0, ty: 0, columns: Math.ceil(rect[2] / TILE), rows: Math.ceil(rect[3] / TILE) }, this.#transparent);
    const tiles = await Promise.all(keys.map(([tx, ty, key]) => this.#store.fetch(key, ...this.#tileSize(level, tx, ty))));
    tiles.forEach((pixels, i) => made.put(pixels, keys[i][0], keys[i][1], keys[i][2]));
    this.#under = made;
    this.dispatchEvent(new Event("overview"));
    if (this.#mosaic?.isBlank) {
      this.#mosaic.startFrom(made);
      this.draw();
    }
  }

  /** Draw the whole picture, small, on a canvas; false while it is not here. @param {HTMLCanvasElement} target */
  drawOverview(target) {
    const under = this.#under;
    const pen = target.getContext("2d");
    if (!under || !pen) return false;
    const size = 2 ** under.level;
    pen.imageSmoothingQuality = "high";
    pen.drawImage(under.canvas, 0, 0, this.width / size, this.height / size, 0, 0, target.width, target.height);
    return true;
  }

  /** @param {number} change */
  #count(change) {
    this.#outstanding += change;
    this.dispatchEvent(new CustomEvent("waiting", { detail: this.#outstanding }));
  }

  /** Put a rectangle of a level that came back while a stroke is drawn. @param {ArrayBuffer} bytes @param {number[]} rect @param {number} level */
  patch(bytes, [x, y, w, h], level) {
    if (!w || !h || !this.#mosaic || this.#mosaic.level !== level) return;
    this.#mosaic.patch(new ImageData(new Uint8ClampedArray(bytes), w, h), x, y);
    this.draw(this.#onScreen(x, y, w, h, 2 ** level));
  }

  /** The pixels of the screen, [left, top, right, bottom], that a rectangle of a level shows in. @param {number} x @param {number} y @param {number} w @param {number} h @param {number} size */
  #onScreen(x, y, w, h, size) {
    const { left, top, right, bottom } = this.place.screenOf(x * size, y * size, w * size, h * size);
    const margin = Math.ceil(SMOOTHED * Math.max(this.scale * size, 1));
    return [Math.floor(left) - margin, Math.floor(top) - margin, Math.ceil(right) + margin, Math.ceil(bottom) + margin];
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
    const [left, top, right, bottom] = this.#changed ?? [0, 0, 0, 0];
    this.#changed = null;
    pen.save();
    pen.beginPath();
    pen.rect(left, top, right - left, bottom - top);
    pen.clip();
    pen.fillStyle = this.#surround;
    pen.fillRect(left, top, right - left, bottom - top);
    if (this.#mosaic) this.#paintMosaic(this.#mosaic);
    pen.restore();
    this.dispatchEvent(new Event("painted"));
  }

  /** @param {Mosaic} mosaic */
  #paintMosaic(mosaic) {
    const { pen, width, height } = this;
    const size = 2 ** mosaic.level;
    pen.setTransform(...this.place.transform);
    pen.beginPath();
    pen.rect(0, 0, width, height);
    pen.clip();
    if (this.#transparent) this.#paintChequers();
    pen.imageSmoothingEnabled = this.scale * size < 2;
    pen.imageSmoothingQuality = this.#moving ? "low" : "high";
    pen.drawImage(
      mosaic.canvas, 0, 0, mosaic.width, mosaic.height,
      mosaic.left * size, mosaic.top * size, mosaic.width * size, mosaic.height * size,
    );
  }

  /** What shows through a picture with alpha: chequers that stay where they are on the screen. */
  #paintChequers() {
    const { pen } = this;
    this.#chequers ??= pen.createPattern(chequered(CHEQUER * this.density), "repeat");
    if (!this.#chequers) return;
    pen.save();
    pen.resetTransform();
    pen.fillStyle = this.#chequers;
    pen.fillRect(0, 0, this.element.width, this.element.height);
    pen.restore();
  }
}

/** Four chequers. @param {number} size */
function chequered(size) {
  const made = new OffscreenCanvas(2 * size, 2 * size);
  const pen = /** @type {OffscreenCanvasRenderingContext2D} */ (made.getContext("2d"));
  pen.fillStyle = CHEQUER_LIGHT;
  pen.fillRect(0, 0, 2 * size, 2 * size);
  pen.fillStyle = CHEQUER_DARK;
  pen.fillRect(0, 0, size, size);
  pen.fillRect(size, size, size, size);
  return made;
}
