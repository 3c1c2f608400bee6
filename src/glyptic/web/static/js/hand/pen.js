/** The pen: which measures its pressure, tilt and speed drive, how pressure is bent, and what an event tells of it. */

import { keep, recall } from "../core/store.js";

const STORED = "glyptic-pen";
const NONE = { size: false, opacity: false, flow: false };
const START = { drives: { pressure: { ...NONE, flow: true }, tilt: NONE, speed: NONE }, bend: 1, smoothing: 0, mouse: false };
/** Pixels of the screen a millisecond that count as fastest. */
const FASTEST = 3;
const FOLLOWS = 0.35;
/** What pressure a mouse has at rest and at its fastest, where it is made from speed. */
const FIRM = 0.9;
const LIGHT = 0.15;
const MOUSE_START = 0.35;

const within = (/** @type {number} */ v) => Math.min(1, Math.max(0, v));

export class Pen extends EventTarget {
  constructor() {
    super();
    const { drives, bend, smoothing, mouse } = { ...START, ...recall(STORED, START) };
    /** @type {Record<string, Record<string, boolean>>} */
    this.drives = Object.fromEntries(Object.entries(START.drives).map(([what, none]) => [what, { ...none, .../** @type {any} */ (drives)[what] }]));
    this.bend = bend;
    this.smoothing = smoothing;
    this.mouse = mouse;
  }

  /** Smoothing 0..1, the exponent that bends pressure, whether a mouse's pressure is made from its speed. @param {Partial<{ smoothing: number, bend: number, mouse: boolean }>} values */
  tune(values) {
    Object.assign(this, values);
    this.#keep();
  }

  drive(what, measure, on) {
    this.drives[what][measure] = on;
    this.#keep();
  }

  #keep() {
    const { drives, bend, smoothing, mouse } = this;
    keep(STORED, { drives, bend, smoothing, mouse });
    this.dispatchEvent(new Event("change"));
  }

  /** What drives a stroke: of a pen all it tells, of a mouse its speed, and its pressure where that is made. */
  drivesFor(isPen) {
    return { pressure: isPen || this.mouse ? this.drives.pressure : NONE, tilt: isPen ? this.drives.tilt : NONE, speed: this.drives.speed };
  }
}

/** @typedef {{ pressure: number, tilt: number, speed: number }} Told what an event tells, each 0..1 */

/** How far a pen leans: 0 upright, 1 flat. */
function leaning({ altitudeAngle, tiltX = 0, tiltY = 0 }) {
  const rad = Math.PI / 180;
  if (!tiltX && !tiltY) return altitudeAngle === undefined ? 0 : within(1 - altitudeAngle / (Math.PI / 2));
  return within(Math.atan(Math.hypot(Math.tan(tiltX * rad), Math.tan(tiltY * rad))) / (Math.PI / 2));
}

/** What the events of one stroke tell, one after the other: pressure, tilt and speed, each 0..1. */
export class Reading {
  /** @type {{ x: number, y: number, time: number } | null} */
  #last = null;
  #speed = 0;

  /** @param {Pen} pen @param {boolean} isPen */
  constructor(pen, isPen) {
    this.pen = pen;
    this.isPen = isPen;
  }

  read(event) {
    const { clientX: x, clientY: y, timeStamp: time } = event;
    if (this.#last && time > this.#last.time) {
      const now = Math.hypot(x - this.#last.x, y - this.#last.y) / (time - this.#last.time) / FASTEST;
      this.#speed += FOLLOWS * (within(now) - this.#speed);
    }
    const isFirst = !this.#last;
    this.#last = { x, y, time };
    return { pressure: within(this.#pressure(event, isFirst)) ** this.pen.bend, tilt: this.isPen ? leaning(event) : 0, speed: this.#speed };
  }

  #pressure(event, isFirst) {
    if (this.isPen) return Number.isFinite(event.pressure) ? event.pressure : 1;
    if (!this.pen.mouse) return 1;
    return isFirst ? MOUSE_START : FIRM + (LIGHT - FIRM) * this.#speed;
  }
}
