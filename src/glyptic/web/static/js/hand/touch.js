/** Fingers: one does what a pointer does, two move, zoom and turn the view; while a pen is near, a single one rests. */

import { TURN } from "../canvas/place.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {import("../core/events.js").Deed} Deed
 * @typedef {{ x: number, y: number }} Point
 */

/** How long after a pen was last seen a finger counts as the hand that holds it. */
const PEN_NEAR = 1500;
/** A turn has to pass this many degrees before the view follows. */
const TURNS_FROM = 10;
const RESTING = { move() {}, end() {}, giveUp() {} };

/** Two fingers on the picture. */
class Gesture {
  /** @param {Bench} bench @param {Finger} first @param {Finger} second */
  constructor(bench, first, second) {
    this.bench = bench;
    this.fingers = [first, second];
    this.last = this.#read();
    this.turned = 0;
  }

  #read() {
    const [a, b] = this.fingers.map(({ at }) => at);
    return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, apart: Math.max(1, Math.hypot(b.x - a.x, b.y - a.y)), angle: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI };
  }

  follow() {
    const now = this.#read();
    const before = this.last;
    this.last = now;
    this.turned += ((now.angle - before.angle + 540) % 360) - 180;
    this.bench.canvas.move((place) => {
      place.pan(now.x - before.x, now.y - before.y);
      place.zoomAt(now.x, now.y, place.scale * (now.apart / before.apart));
      if (Math.abs(this.turned) < TURNS_FROM) return;
      const steps = Math.round(this.turned / TURN);
      this.turned -= steps * TURN;
      if (steps) place.turnTo(place.turn + steps * TURN, now);
    }, true);
  }
}

/** One finger: it does its deed until a second one comes. @implements {Deed} */
class Finger {
  /** @type {Gesture | null} */
  gesture = null;

  /** @param {Touches} touches @param {PointerEvent} event @param {Deed} deed */
  constructor(touches, event, deed) {
    this.touches = touches;
    this.deed = deed;
    this.at = touches.bench.canvas.screenAt(event);
  }

  /** @param {PointerEvent} event */
  move(event) {
    this.at = this.touches.bench.canvas.screenAt(event);
    if (this.gesture) this.gesture.follow();
    else this.deed.move(event);
  }

  end() { this.#over("end"); }
  giveUp() { this.#over("giveUp"); }

  /** @param {"end" | "giveUp"} how */
  #over(how) {
    this.touches.lift(this);
    if (!this.gesture) this.deed[how]();
  }

  /** The deed gives way to a gesture. @param {Gesture} gesture */
  joins(gesture) {
    if (!this.gesture) this.deed.giveUp();
    this.gesture = gesture;
  }
}

export class Touches {
  /** @type {Set<Finger>} */
  #fingers = new Set();
  #penSeen = -PEN_NEAR;

  /** @param {Bench} bench */
  constructor(bench) { this.bench = bench; }

  /** A pointer was seen over the picture. @param {PointerEvent} event */
  sees(event) { if (event.pointerType === "pen") this.#penSeen = event.timeStamp; }

  /** The deed of a press: what `begin` makes of it, but for fingers. @param {PointerEvent} event @param {() => Deed | null} begin */
  claims(event, begin) {
    this.sees(event);
    if (event.pointerType !== "touch") return begin();
    const [first] = this.#fingers;
    const finger = new Finger(this, event, first || event.timeStamp - this.#penSeen < PEN_NEAR ? RESTING : begin() ?? RESTING);
    this.#fingers.add(finger);
    if (first) {
      const gesture = new Gesture(this.bench, first, finger);
      for (const one of [first, finger]) one.joins(gesture);
    }
    return finger;
  }

  /** @param {Finger} finger */
  lift(finger) {
    this.#fingers.delete(finger);
    for (const other of this.#fingers) other.deed = RESTING;
  }
}
