/** Where the picture lies on the screen: its scale, its turn, whether it is mirrored; in device pixels of the canvas. */

import { clamp } from "../core/dom.js";

export const TURN = 15;
const SLACK = 1e-6;
const LARGEST_SCALE = 32;
const MARGIN = 12;
const KEPT_IN_SIGHT = 60;
const WHOLE = 360;
const QUARTER = 90;

/** How many pixels there are along a length of the picture at a level where a pixel is `size` wide (as `level_size`). @param {number} length @param {number} size */
export const pixelsAlong = (length, size) => Math.ceil(length / size - SLACK);

/** Exact where the exact value is known, so that a turn by right angles moves whole pixels. @param {number} value */
const tidy = (value) => Math.round(value * 1e12) / 1e12;

export class Place {
  scale = 0;
  #x = 0;
  #y = 0;
  turn = 0;
  mirrored = false;
  fitted = true;
  screen = { width: 0, height: 0 };
  density = 1;

  /** @param {number} width @param {number} height of the picture, in its pixels */
  constructor(width, height) {
    this.width = width;
    this.height = height;
  }

  /** Where the picture's corner lies: on a whole pixel where its axes are those of the screen, so that pixels fall on pixels. */
  get x() { return this.turn % QUARTER ? this.#x : Math.round(this.#x); }
  get y() { return this.turn % QUARTER ? this.#y : Math.round(this.#y); }

  /** How the picture's axes lie, for a scale of one: [a, b, c, d] as a canvas writes a transform. */
  get axes() {
    const angle = (this.turn * Math.PI) / 180;
    const [cos, sin] = [tidy(Math.cos(angle)), tidy(Math.sin(angle))];
    const across = this.mirrored ? -1 : 1;
    return [cos * across, sin * across, -sin, cos];
  }

  /** The transform from picture pixels to the screen, as a canvas takes it. @returns {[number, number, number, number, number, number]} */
  get transform() {
    const [a, b, c, d] = this.axes.map((v) => v * this.scale);
    return [a, b, c, d, this.x, this.y];
  }

  /** @param {number} x @param {number} y */
  onScreen(x, y) {
    const [a, b, c, d, e, f] = this.transform;
    return { x: a * x + c * y + e, y: b * x + d * y + f };
  }

  /** @param {number} x @param {number} y */
  inPicture(x, y) {
    const [a, b, c, d] = this.axes;
    const [dx, dy] = [(x - this.x) / this.scale, (y - this.y) / this.scale];
    const turned = a * d - b * c;
    return { x: (d * dx - c * dy) / turned, y: (a * dy - b * dx) / turned };
  }

  /** The rectangle around four corners. @param {{ x: number, y: number }[]} corners */
  static around(corners) {
    const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
    return { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) };
  }

  /** The rectangle of the picture, in its pixels, that is on screen at all. */
  get seen() {
    const { width, height } = this.screen;
    return Place.around([[0, 0], [width, 0], [0, height], [width, height]].map(([x, y]) => this.inPicture(x, y)));
  }

  /** The rectangle of the screen that a rectangle of the picture lies in. @param {number} x @param {number} y @param {number} w @param {number} h */
  screenOf(x, y, w, h) {
    return Place.around([[x, y], [x + w, y], [x, y + h], [x + w, y + h]].map(([px, py]) => this.onScreen(px, py)));
  }

  /** How large the picture lies on a screen at a scale of one. */
  get #extent() {
    const [a, b, c, d] = this.axes.map(Math.abs);
    return { width: a * this.width + c * this.height, height: b * this.width + d * this.height };
  }

  get fitScale() {
    const room = MARGIN * this.density;
    const { width, height } = this.#extent;
    return Math.min(LARGEST_SCALE, (this.screen.width - room) / width, (this.screen.height - room) / height);
  }

  get #middle() { return { x: this.screen.width / 2, y: this.screen.height / 2 }; }

  fit() {
    this.scale = this.fitScale;
    this.fitted = true;
    this.#put(this.width / 2, this.height / 2, this.#middle);
  }

  /** Lay a place of the picture to a place of the screen. @param {number} px @param {number} py @param {{ x: number, y: number }} at */
  #put(px, py, at) {
    const [a, b, c, d] = this.transform;
    this.#x = at.x - (a * px + c * py);
    this.#y = at.y - (b * px + d * py);
  }

  /** Bring a place of the picture to the middle of the screen, at a scale. @param {number} px @param {number} py @param {number} [scale] */
  show(px, py, scale = this.scale) {
    this.scale = clamp(scale, Math.min(this.fitScale, scale, this.scale), LARGEST_SCALE);
    this.fitted = false;
    this.#put(px, py, this.#middle);
  }

  /** Zoom so that the picture point under (x, y) of the screen stays there. @param {number} x @param {number} y @param {number} scale */
  zoomAt(x, y, scale) {
    const under = this.inPicture(x, y);
    this.scale = clamp(scale, Math.min(this.fitScale / 4, 1), LARGEST_SCALE);
    this.fitted = false;
    this.#put(under.x, under.y, { x, y });
  }

  /** One picture pixel to a device pixel, pixel on pixel. @param {number} x @param {number} y */
  oneToOne(x, y) {
    this.zoomAt(x, y, 1);
  }

  /** Turn about a place of the screen; a fitted picture stays fitted. @param {number} degrees @param {{ x: number, y: number }} [about] */
  turnTo(degrees, about = this.#middle) {
    const under = this.inPicture(about.x, about.y);
    this.turn = ((degrees % WHOLE) + WHOLE) % WHOLE;
    this.#settle(under, about);
  }

  /** Mirror left and right, about the middle of the screen. */
  mirror() {
    const under = this.inPicture(this.#middle.x, this.#middle.y);
    this.mirrored = !this.mirrored;
    this.turn = (WHOLE - this.turn) % WHOLE;
    this.#settle(under, this.#middle);
  }

  /** @param {{ x: number, y: number }} under @param {{ x: number, y: number }} at */
  #settle(under, at) {
    if (this.fitted) this.fit();
    else this.#put(under.x, under.y, at);
  }

  /** Shift by device pixels; some of the picture stays in sight. @param {number} dx @param {number} dy */
  pan(dx, dy) {
    const keep = KEPT_IN_SIGHT * this.density;
    const { left, top, right, bottom } = this.screenOf(0, 0, this.width, this.height);
    this.#x += clamp(dx, keep - right, this.screen.width - keep - left);
    this.#y += clamp(dy, keep - bottom, this.screen.height - keep - top);
    this.fitted = false;
  }
}
