/**
 * A stroke while it is drawn and after: points go up, the true pixels under them come back, two requests at a time;
 * when the hand lifts the whole stroke is kept. A stroke that cannot be sent stays here and is sent again.
 */

import { drawing } from "../core/busy.js";
import { say } from "../core/says.js";
import { postForFramed } from "../core/server.js";
import { Reading } from "./pen.js";

/**
 * @typedef {import("../core/server.js").Refusal} Refusal
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ x: number, y: number }} Point
 * @typedef {{ pressure: number, tilt: number, speed: number }} Told
 */

const IN_FLIGHT = 2;
/** How far behind the hand a fully smoothed stroke follows, in pixels of the screen. */
const STRING = 60;
const STILL = { pressure: 1, tilt: 0, speed: 0 };

/** The stroke before, until it is kept. @type {Promise<void>} */
let before = Promise.resolve();

export class Stroke {
  /** @type {number[][]} */
  #points = [];
  #sent = 0;
  #ended = false;
  #given = false;
  #known = false;
  #number = crypto.randomUUID();
  /** @type {Point | null} */
  #tip = null;
  #reading;
  #leaning;
  /** @type {(Point & { told: Told }) | null} */
  #hand = null;
  /** Goes on with what waits for the hand. */
  #wake = () => {};

  /** @param {Bench} bench @param {boolean} isPen */
  constructor(bench, isPen) {
    this.bench = bench;
    this.layer = bench.session.chosen;
    this.target = bench.brush.target;
    /** @type {any} */
    this.head = bench.brush.head(isPen);
    this.#reading = new Reading(bench.pen, isPen);
    this.#leaning = ["tilt", "speed"].some((what) => Object.values(this.head[what]).some(Boolean));
    const earlier = before;
    this.done = drawing(earlier.then(() => this.#run()));
    before = this.done;
  }

  /** Begin where an earlier stroke ended: what is added next is joined to it by a straight line. @param {Point} place */
  start({ x, y }) { this.#put(x, y, STILL); }

  /** Add the points of a pointer event, the coalesced ones among them. With smoothing the stroke follows the hand as if
   * drawn along on a string; without, it is where the hand is. @param {PointerEvent} event */
  add(event) {
    const events = event.getCoalescedEvents?.() ?? [];
    for (const one of events.length ? events : [event]) {
      const hand = this.bench.canvas.at(one);
      const told = this.#reading.read(one);
      this.#tip = this.#pulled(hand);
      this.#put(this.#tip.x, this.#tip.y, told);
      this.#hand = { ...hand, told };
    }
  }

  /** @param {Point} hand */
  #pulled(hand) {
    const string = (this.bench.pen.smoothing * STRING) / this.bench.canvas.zoom;
    if (!this.#tip || string === 0) return hand;
    const far = Math.hypot(hand.x - this.#tip.x, hand.y - this.#tip.y);
    if (far <= string) return this.#tip;
    const share = 1 - string / far;
    return { x: this.#tip.x + (hand.x - this.#tip.x) * share, y: this.#tip.y + (hand.y - this.#tip.y) * share };
  }

  /** Add a point, unless it is the last one again: with tilt and speed where these drive anything. @param {number} x @param {number} y @param {Told} told */
  #put(x, y, { pressure, tilt, speed }) {
    const last = this.#points.at(-1);
    this.#wake();
    const told = this.#leaning ? [pressure, tilt, speed] : [pressure];
    const point = [Number(x.toFixed(2)), Number(y.toFixed(2)), ...told.map((v) => Number(v.toFixed(4)))];
    if (!last || last.some((v, i) => v !== point[i])) this.#points.push(point);
  }

  /** The hand lifts: a smoothed stroke goes on to where the hand is. */
  end() {
    if (this.#hand) this.#put(this.#hand.x, this.#hand.y, this.#hand.told);
    this.#ended = true;
    this.#wake();
  }

  giveUp() {
    this.#ended = true;
    this.#given = true;
    this.#wake();
  }

  /**
   * Send points as they come, with at most IN_FLIGHT requests under way once the server knows the stroke. Answers are
   * put on the canvas in the order of their questions, so that no pixel goes back to an older state.
   */
  async #run() {
    /** @type {Promise<void>} */
    let shown = Promise.resolve();
    const underWay = new Set();
    while (!this.#ended || this.#sent < this.#points.length) {
      if (this.#given) break;
      document.body.toggleAttribute("data-drawn", this.#sent === this.#points.length && !underWay.size);
      const room = underWay.size < (this.#known ? IN_FLIGHT : 1);
      if (this.#sent < this.#points.length && room) {
        const answer = this.#ask();
        const turn = shown.then(() => answer).then((found) => this.#show(found));
        const done = turn.finally(() => underWay.delete(done));
        underWay.add(done);
        shown = done;
      } else if (underWay.size && (!room || this.#ended)) {
        await Promise.race(underWay);
      } else {
        await Promise.race([...underWay, new Promise((resolve) => { this.#wake = () => resolve(undefined); })]);
      }
    }
    await shown;
    document.body.removeAttribute("data-drawn");
    if (this.#given || !this.#points.length) this.bench.showing.refresh();
    else await this.#keep();
  }

  /** Send the points that are new; resolves to what came back, or to null. */
  async #ask() {
    const from = this.#sent;
    this.#sent = this.#points.length;
    const { session, showing } = this.bench;
    const { looking } = showing;
    try {
      const { head, content } = await postForFramed(`${session.url}strokes/${this.#number}/points`, {
        layer: this.layer, target: this.target, stroke: from ? undefined : this.head, from,
        points: this.#points.slice(from, this.#sent), looking,
      });
      this.#known = true;
      return { head, content, view: looking.view };
    } catch (error) {
      this.#missed(/** @type {Refusal} */ (error), from);
      return null;
    }
  }

  /** A server that was started anew is sent the stroke from its start. @param {Refusal} error @param {number} from */
  #missed(error, from) {
    if (error.status === 404 && from) {
      this.#known = false;
      this.#sent = 0;
    } else if (error.status) {
      say(error.message);
      this.#given = !error.passes;
    }
  }

  /** @param {{ head: any, content: ArrayBuffer, view: string } | null} answer */
  #show(answer) {
    const { showing, canvas } = this.bench;
    if (!answer || showing.view !== answer.view) return;
    canvas.patch(answer.content, answer.head.rect, answer.head.level);
  }

  /** Keep the whole stroke; it is held and sent again until it is kept, once, under its number. */
  async #keep() {
    const { session, showing } = this.bench;
    const body = { number: this.#number, layer: this.layer, target: this.target, stroke: { ...this.head, points: this.#points } };
    try {
      await session.tryAsk("strokes/keep", body, { always: true });
    } catch (error) {
      session.complain(error);
      showing.refresh();
    }
  }
}
