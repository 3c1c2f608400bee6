/**
 * The canvas: what is on screen, and how it is drawn. Beside the picture itself it holds what that is compared with, on a
 * canvas of its own: over it, and cut off at a line, or at its side.
 */

import { begin, end } from "../core/busy.js";
import { clamp, find } from "../core/dom.js";
import { DECODED, penOf, pixelsOf } from "./colours.js";
import { TILE } from "./mosaic.js";
import { Pane } from "./pane.js";
import { Place, pixelsAlong } from "./place.js";
import { Plane } from "./plane.js";
import { TileStore } from "./tiles.js";

const OVERVIEW = 768;
/** Milliseconds without a change after which the picture counts as still. */
const STILL = 160;
/** Milliseconds after the last step of a zoom in which the level stays as it was. */
const SETTLED = 120;
/** How near to one a pixel's size on screen counts as one. */
const NEARLY = 1e-6;
/** How many of its neighbours a pixel is smoothed with when the picture is drawn smaller. */
const SMOOTHED = 3;
/** The chequers that show through a picture with alpha: their size on screen and their greys. */
const CHEQUER = 8;
const [CHEQUER_LIGHT, CHEQUER_DARK] = ["#a8a8a8", "#8c8c8c"];

/**
 * @typedef {[number, number, string][]} TileKeys places and keys of tiles
 * @typedef {{ view: string, layer: string, level: number, rect: number[], soon?: boolean }} Looking
 */

/** A length in device pixels: as the browser snapped it to whole ones, where what it tells can be that; else to the nearest. @param {number} length @param {number} [told] */
const snapped = (length, told) => (told !== undefined && Math.abs(told - length) < 1 ? told : Math.round(length));

export class Canvas extends EventTarget {
  #store = new TileStore();
  #main = new Pane(this, this.#store);
  /** What is compared with, by name, and which of it is shown. @type {Map<string, Pane>} */
  #panes = new Map();
  /** @type {Pane | null} */
  #facing = null;
  /** Whether the two stand side by side, and the picture itself at the right. */
  #beside = false;
  #onRight = false;
  #painted = false;
  /** @type {number[] | null} */
  #changed = null;
  #outstanding = 0;
  #moving = 0;
  /** The level of what is on screen, and whether it waits for the end of a zoom. */
  #level = 0;
  #zooming = 0;
  /** @type {CanvasPattern | null} */
  #chequers = null;

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
    this.pen = /** @type {CanvasRenderingContext2D} */ (penOf(this.element, { alpha: false }));
    this.otherElement = find(stage, "#other", HTMLCanvasElement);
    this.otherPen = /** @type {CanvasRenderingContext2D} */ (penOf(this.otherElement, { alpha: false }));
    this.width = width;
    this.height = height;
    this.deepest = declared.deepest;
    /** What carries pixels of what is shown to those the chosen layer is drawn in; null where they are the same. @type {Plane | null} */
    this.through = null;
    /** @type {Plane | null} */
    this.back = null;
    this.place = new Place(width, height);
    this.transparent = declared.transparent;
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
    this.element.width = width;
    this.element.height = height;
    place.scale *= density / place.density;
    place.density = density;
    this.#fill();
  }

  /** The picture takes up the screen, or a half of it; what was in the middle stays there. */
  #fill() {
    const { place, element, otherElement } = this;
    const middle = place.scale ? place.inPicture(place.screen.width / 2, place.screen.height / 2) : null;
    place.screen = { width: this.#beside ? Math.floor(element.width / 2) : element.width, height: element.height };
    [otherElement.width, otherElement.height] = [place.screen.width, place.screen.height];
    if (place.fitted || !middle) place.fit();
    else place.show(middle.x, middle.y);
    this.#moved();
  }

  /** A pane for what the picture is compared with. @param {string} name */
  pane(name) {
    const pane = this.#panes.get(name) ?? new Pane(this, this.#store);
    this.#panes.set(name, pane);
    return pane;
  }

  /** A pane laid over what is on screen. @param {string} name */
  layPane(name) {
    const pane = this.pane(name);
    pane.lay(this.#area(), this.level);
    return pane;
  }

  /** Show a pane over the picture or, `beside`, at its side; or none. @param {Pane | null} pane @param {boolean} [beside] @param {boolean} [onRight] whether the picture itself is at the right */
  face(pane, beside = false, onRight = false) {
    const halved = beside !== this.#beside;
    [this.#facing, this.#beside, this.#onRight] = [pane, beside, onRight];
    this.otherElement.hidden = !pane;
    if (!pane) return void (halved && this.#fill());
    pane.lay(this.#area(), this.level);
    if (halved) this.#fill();
    else this.draw();
  }

  /** Draw at once what is shown over the picture, for the eye not to forget. @param {Pane} pane */
  flash(pane) {
    this.face(pane, this.#beside, this.#onRight);
    this.#drawNow();
  }

  get facing() { return this.#facing; }

  /** Where the picture itself begins on the screen, in device pixels. */
  get #offset() { return this.#beside && this.#onRight ? this.element.width - this.place.screen.width : 0; }

  get ready() { return this.#main.mosaic !== null; }
  /** Whether a zoom is under way: its level comes when it rests. */
  get zooming() { return this.#zooming !== 0; }
  get density() { return this.place.density; }
  get scale() { return this.place.scale; }
  get fitted() { return this.place.fitted; }

  /** The level that is shown: zoomed out, that in which a pixel of the level is one of the screen. */
  get level() { return this.#level; }

  get #levelOfScale() { return this.scale >= 1 ? 0 : clamp(-Math.log2(this.scale), 0, this.deepest); }

  /** Device pixels of the canvas under a pointer event. @param {{ clientX: number, clientY: number }} event */
  screenAt(event) {
    const box = this.stage.getBoundingClientRect();
    const x = (event.clientX - box.left) * this.density;
    const { width } = this.place.screen;
    return { x: this.#beside && x >= this.element.width - width ? x - (this.element.width - width) : x, y: (event.clientY - box.top) * this.density };
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

  /** CSS pixels on the stage of a place of the picture's own screen, in device pixels. @param {number} x @param {number} y */
  onShown(x, y) { return { x: (x + this.#offset) / this.density, y: y / this.density }; }

  /** CSS pixels on the stage of coordinates of what the chosen layer is drawn in. @param {number} x @param {number} y */
  onStage(x, y) {
    const screen = this.place.onScreen(...this.shown(x, y));
    return this.onShown(screen.x, screen.y);
  }

  /** How many CSS pixels a pixel of what the chosen layer is drawn in is wide, on the whole. */
  get zoom() { return this.scale / this.density / (this.through?.growth(this.width / 2, this.height / 2) ?? 1); }

  /** The same under a pointer. @param {{ clientX: number, clientY: number }} event */
  zoomAt(event) {
    const { x, y } = this.shownAt(event);
    return this.scale / this.density / (this.through?.growth(x, y) ?? 1);
  }

  /** What is shown is another thing: its size, its deepest level, and what carries it to what is drawn in. A new size is
   * laid anew, in the middle of the screen where it was fitted. @param {number[]} size @param {number} deepest @param {number[] | null} through */
  lay([width, height], deepest, through) {
    this.through = through && new Plane(through);
    this.back = this.through?.inverse ?? null;
    if (width === this.width && height === this.height) return;
    const { place } = this;
    for (const pane of [this.#main, ...this.#panes.values()]) pane.clear();
    [this.width, this.height, this.deepest] = [width, height, deepest];
    [place.width, place.height] = [width, height];
    this.dispatchEvent(new Event("size"));
    if (place.screen.width) this.move(() => { if (place.fitted) place.fit(); else place.pan(0, 0); });
  }

  /** Change where the picture lies. @param {(place: Place) => void} change @param {boolean} [zooming] whether it is one step of several that follow each other */
  move(change, zooming = false) {
    change(this.place);
    this.#moved(zooming);
  }

  fit() { this.move((place) => place.fit()); }

  /** Bring a place of the picture to the middle of the screen. @param {number} x @param {number} y @param {number} [scale] */
  showPlace(x, y, scale) { this.move((place) => place.show(x, y, scale)); }

  /** The place of a pointer on the screen, or its middle. @param {{ clientX: number, clientY: number } | null} event */
  #pointed(event) {
    const box = this.stage.getBoundingClientRect();
    const inside = event && event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom;
    return inside ? this.screenAt(event) : { x: this.place.screen.width / 2, y: this.place.screen.height / 2 };
  }

  /** @param {{ clientX: number, clientY: number } | null} event */
  oneToOne(event) {
    const { x, y } = this.#pointed(event);
    this.move((place) => place.oneToOne(x, y));
  }

  /** Zoom by a factor at a pointer, or at the middle of the screen. @param {number} factor @param {{ clientX: number, clientY: number } | null} [event] */
  zoomBy(factor, event = null) {
    const { x, y } = this.#pointed(event);
    this.move((place) => place.zoomAt(x, y, place.scale * factor), true);
  }

  /** @param {number} dx @param {number} dy CSS pixels */
  pan(dx, dy) { this.move((place) => place.pan(dx * this.density, dy * this.density)); }

  #moved(zooming = false) {
    clearTimeout(this.#zooming);
    const apart = Math.abs(this.#levelOfScale - this.#level);
    const waits = zooming && this.ready && apart > 0 && apart < 1;
    this.#zooming = waits ? setTimeout(() => this.#moved(), SETTLED) : 0;
    if (!waits) {
      this.#level = this.#levelOfScale;
      const area = this.#area();
      this.#main.lay(area, this.level);
      this.#facing?.lay(area, this.level);
    }
    this.#inMotion();
    this.draw();
    this.dispatchEvent(new Event("moved"));
  }

  get surround() { return getComputedStyle(this.stage).backgroundColor; }

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
    const across = Math.ceil(pixelsAlong(this.width, size) / TILE);
    const down = Math.ceil(pixelsAlong(this.height, size) / TILE);
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
    const { tx, ty, columns, rows } = this.#main.mosaic ?? this.#area();
    return { view, layer, level: this.level, rect: [tx * TILE, ty * TILE, columns * TILE, rows * TILE] };
  }

  /** What may come into sight next: a tile more on every side. @param {string} view @param {string} layer @returns {Looking} */
  lookingSoon(view, layer) {
    const looking = this.looking(view, layer);
    const [x, y, w, h] = looking.rect;
    return { ...looking, rect: [x - TILE, y - TILE, w + 2 * TILE, h + 2 * TILE], soon: true };
  }

  /** What the server is asked about while something is dragged: no more than what is on screen, `coarser` levels further out. @param {string} view @param {string} layer @param {number} coarser */
  lookingCoarser(view, layer, coarser) {
    const level = Math.min(this.level + coarser, this.deepest);
    const size = 2 ** level;
    const { left, top, right, bottom } = this.place.seen;
    const [x, y] = [Math.max(0, Math.floor(left / size)), Math.max(0, Math.floor(top / size))];
    const [endX, endY] = [Math.min(right, this.width), Math.min(bottom, this.height)].map((last) => Math.ceil(last / size));
    return { view, layer, level, rect: [x, y, Math.max(1, endX - x), Math.max(1, endY - y)] };
  }

  /** Give up the tiles that are on their way: something newer is coming. */
  giveUp() { this.#main.giveUp(); }

  /**
   * Show a rectangle of a level, perhaps a coarser one, until the true tiles come, unless `current()` says that it is
   * too late. raw: whether it is pixels as they are, or else a JPEG.
   * @param {ArrayBuffer} bytes
   * @param {{ rect: number[], level: number, raw?: boolean }} head
   * @param {() => boolean} current
   */
  async showQuick(bytes, { rect, level, raw }, current) {
    const { mosaic } = this.#main;
    const pixels = raw ? pixelsOf(bytes, rect[2], rect[3]) : new Blob([bytes], { type: "image/jpeg" });
    if (pixels instanceof ImageData && mosaic?.level === level) {
      this.#main.putPatch(pixels, rect);
      this.#shownQuick();
      return;
    }
    const picture = await createImageBitmap(pixels, raw ? {} : DECODED);
    if (mosaic && mosaic === this.#main.mosaic && current()) {
      this.#main.putScaled(picture, rect, level);
      this.#shownQuick();
    }
    picture.close();
  }

  #shownQuick() {
    this.#inMotion();
    this.#drawNow();
  }

  /** @param {number} level @param {number} tx @param {number} ty @returns {[number, number]} */
  tileSize(level, tx, ty) {
    const size = 2 ** level;
    return [Math.min(TILE, pixelsAlong(this.width, size) - tx * TILE), Math.min(TILE, pixelsAlong(this.height, size) - ty * TILE)];
  }

  /** Show these tiles of a level; resolves when all are on screen (or no longer wanted). @param {TileKeys} keys @param {number} level */
  show(keys, level) { return this.#main.show(keys, level); }

  /** Whether tiles can be shown at once: all of them are here. @param {TileKeys} keys */
  has(keys) { return keys.every(([, , key]) => this.#store.has(key)); }

  /** Fetch tiles that may be wanted soon, one after the other, as long as `current()` says so. @param {TileKeys} keys @param {number} level @param {() => boolean} current */
  async prepare(keys, level, current) {
    for (const [tx, ty, key] of keys) {
      if (!current()) return;
      if (this.#store.has(key)) continue;
      await this.#store.fetch(key, ...this.tileSize(level, tx, ty), true).catch(() => {});
    }
  }

  /** What the server is asked about for the overview: the whole picture at a small level. @param {string} view @param {string} layer @returns {Looking} */
  overview(view, layer) {
    let level = Math.ceil(this.level);
    while (level < this.deepest && Math.max(this.width, this.height) / 2 ** level > OVERVIEW) level += 1;
    return { view, layer, level, rect: [0, 0, pixelsAlong(this.width, 2 ** level), pixelsAlong(this.height, 2 ** level)] };
  }

  /** Keep the whole picture, small, so that what comes into sight is never blank. @param {TileKeys} keys @param {Looking} looking */
  async keepOverview(keys, looking) {
    await this.#main.keepOverview(keys, looking);
    this.dispatchEvent(new Event("overview"));
  }

  /** Draw the whole picture, small, on a canvas; false while it is not here. @param {HTMLCanvasElement} target */
  drawOverview(target) {
    const { under } = this.#main;
    const pen = penOf(target);
    if (!under || !pen) return false;
    const size = 2 ** under.level;
    pen.imageSmoothingQuality = "high";
    pen.drawImage(under.canvas, 0, 0, this.width / size, this.height / size, 0, 0, target.width, target.height);
    return true;
  }

  /** So many tiles more, or fewer, are waited for. @param {number} change */
  count(change) {
    this.#outstanding += change;
    this.dispatchEvent(new CustomEvent("waiting", { detail: this.#outstanding }));
  }

  /** Put a rectangle of a level that came back while a stroke is drawn. @param {ArrayBuffer} bytes @param {number[]} rect @param {number} level */
  patch(bytes, [x, y, w, h], level) {
    const { mosaic } = this.#main;
    if (!w || !h || !mosaic || mosaic.level !== level) return;
    mosaic.patch(pixelsOf(bytes, w, h), x, y);
    this.#drawNow(this.#onScreen(x, y, w, h, 2 ** level));
  }

  /** The pixels of the screen, [left, top, right, bottom], that a rectangle of a level shows in. @param {number} x @param {number} y @param {number} w @param {number} h @param {number} size */
  #onScreen(x, y, w, h, size) {
    const { left, top, right, bottom } = this.place.screenOf(x * size, y * size, w * size, h * size);
    const margin = Math.ceil(SMOOTHED * Math.max(this.scale * size, 1));
    const by = this.#offset;
    return [Math.floor(left) - margin + by, Math.floor(top) - margin, Math.ceil(right) + margin + by, Math.ceil(bottom) + margin];
  }

  #changes(part = [0, 0, this.element.width, this.element.height]) {
    const [left, top, right, bottom] = this.#changed ?? part;
    this.#changed = [Math.min(left, part[0]), Math.min(top, part[1]), Math.max(right, part[2]), Math.max(bottom, part[3])];
  }

  /** Draw at once what the hand waits for: it is on screen with the very next frame. @param {number[]} [part] */
  #drawNow(part) {
    this.#changes(part);
    this.#paint();
  }

  /** Draw with the next frame: all of it, or what lies in a part of the screen, [left, top, right, bottom]. @param {number[]} [part] */
  draw(part) {
    this.#changes(part);
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
    const part = this.#changed;
    if (!part) return;
    this.#changed = null;
    this.#paintPane(this.pen, this.#main, part, this.#offset);
    if (this.#facing) this.#paintPane(this.otherPen, this.#facing, this.#beside ? [0, 0, this.otherElement.width, this.otherElement.height] : part, 0);
    this.dispatchEvent(new Event("painted"));
  }

  /** @param {CanvasRenderingContext2D} pen @param {Pane} pane @param {number[]} part of the screen @param {number} offset */
  #paintPane(pen, pane, [left, top, right, bottom], offset) {
    pen.save();
    pen.beginPath();
    pen.rect(left, top, right - left, bottom - top);
    pen.clip();
    pen.fillStyle = this.surround;
    pen.fillRect(left, top, right - left, bottom - top);
    if (this.#zooming && pane.under) this.#paintMosaic(pen, pane.under, offset);
    if (pane.mosaic) this.#paintMosaic(pen, pane.mosaic, offset);
    pen.restore();
  }

  /** @param {CanvasRenderingContext2D} pen @param {import("./mosaic.js").Mosaic} mosaic @param {number} offset */
  #paintMosaic(pen, mosaic, offset) {
    const { place } = this;
    const exactly = this.scale * 2 ** mosaic.level;
    const zoom = Math.abs(exactly - 1) < NEARLY ? 1 : exactly;
    const [a, b, c, d] = place.axes.map((v) => v * zoom);
    const [width, height] = [this.width, this.height].map((length) => length / 2 ** mosaic.level);
    pen.save();
    pen.setTransform(a, b, c, d, place.x + offset, place.y);
    pen.beginPath();
    pen.rect(0, 0, width, height);
    pen.clip();
    if (this.transparent) this.#paintChequers(pen);
    pen.imageSmoothingEnabled = zoom !== 1 && zoom < 2;
    pen.imageSmoothingQuality = this.#moving ? "low" : "high";
    pen.drawImage(
      mosaic.canvas, 0, 0, mosaic.width, mosaic.height, mosaic.left, mosaic.top, mosaic.width, mosaic.height,
    );
    pen.restore();
  }

  /** What shows through a picture with alpha: chequers that stay where they are on the screen. @param {CanvasRenderingContext2D} pen */
  #paintChequers(pen) {
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
