/**
 * A stroke while it is drawn and after: points go up, the true pixels under them come back, two requests at a time;
 * when the hand lifts the whole stroke is kept. A stroke that cannot be sent stays here and is sent again.
 */

import { busyWith } from "./busy.js";
import { brush } from "./brush.js";
import { Reading, pen } from "./pen.js";
import { say } from "./says.js";
import { postForFramed } from "./server.js";
import { session } from "./session.js";

const AGAIN = 1500;
const IN_FLIGHT = 2;
/** How far behind the hand a fully smoothed stroke follows, in pixels of the screen. */
const STRING = 60;
const kept = document.querySelector("#kept");
let before = Promise.resolve();

const wait = (time) => new Promise((resolve) => { setTimeout(resolve, time); });

/** Strokes that wait to be kept. */
let held = 0;

/** Whether a failure is one that passes: silence, a full disk, a fault of the server. */
const passes = (error) => !error.status || error.status >= 500;

globalThis.addEventListener("beforeunload", (event) => { if (held) event.preventDefault(); });

export class Stroke {
  #points = [];
  #sent = 0;
  #ended = false;
  #given = false;
  #known = false;
  #number = crypto.randomUUID();
  #tip = null;
  #reading;
  #leaning;
  #hand = null;
  /** Goes on with what waits for the hand. */
  #wake = () => {};

  constructor(isPen) {
    this.layer = session.chosen;
    this.target = brush.target;
    this.head = brush.head(isPen);
    this.#reading = new Reading(isPen);
    this.#leaning = ["tilt", "speed"].some((what) => Object.values(this.head[what]).some(Boolean));
    const earlier = before;
    this.done = busyWith(earlier.then(() => this.#run()));
    before = this.done;
  }

  /** Begin where an earlier stroke ended: what is added next is joined to it by a straight line. */
  start({ x, y }) { this.#put(x, y, { pressure: 1, tilt: 0, speed: 0 }); }

  /** Add the points of a pointer event, the coalesced ones among them. With smoothing the stroke follows the hand as if
   * drawn along on a string; without, it is where the hand is. */
  add(event) {
    const events = event.getCoalescedEvents?.() ?? [];
    for (const one of events.length ? events : [event]) {
      const hand = session.canvas.at(one);
      const told = this.#reading.read(one);
      this.#tip = this.#pulled(hand);
      this.#put(this.#tip.x, this.#tip.y, told);
      this.#hand = { ...hand, told };
    }
  }

  #pulled(hand) {
    const string = (pen.smoothing * STRING * session.canvas.density) / session.canvas.scale;
    const far = this.#tip ? Math.hypot(hand.x - this.#tip.x, hand.y - this.#tip.y) : 0;
    if (!this.#tip || string === 0) return hand;
    if (far <= string) return this.#tip;
    const share = 1 - string / far;
    return { x: this.#tip.x + (hand.x - this.#tip.x) * share, y: this.#tip.y + (hand.y - this.#tip.y) * share };
  }

  /** Add a point, unless it is the last one again: with tilt and speed where these drive anything. */
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
        await Promise.race([...underWay, new Promise((resolve) => { this.#wake = resolve; })]);
      }
    }
    await shown;
    document.body.removeAttribute("data-drawn");
    if (this.#given || !this.#points.length) session.refresh();
    else await this.#keep();
  }

  /** Send the points that are new; resolves to what came back, or to null. */
  async #ask() {
    const from = this.#sent;
    this.#sent = this.#points.length;
    const looking = session.looking;
    try {
      const { head, content } = await postForFramed(`${session.url}strokes/${this.#number}/points`, {
        layer: this.layer, target: this.target, stroke: from ? undefined : this.head, from,
        points: this.#points.slice(from, this.#sent), looking,
      });
      this.#known = true;
      return { head, content, view: looking.view };
    } catch (error) {
      if (error.status === 404 && from) {
        this.#known = false;
        this.#sent = 0;
      } else if (error.status) {
        say(error.message);
        this.#given = !passes(error);
      }
      return null;
    }
  }

  #show(answer) {
    if (!answer || session.view !== answer.view) return;
    session.canvas.patch(answer.content, answer.head.rect, answer.head.level);
  }

  /** Keep the whole stroke; while the server does not answer, or cannot keep it, say so and try again: under its number
   * it is kept once, however often it is sent. */
  async #keep() {
    const body = { number: this.#number, layer: this.layer, target: this.target, stroke: { ...this.head, points: this.#points } };
    held += 1;
    for (;;) {
      try {
        await session.tryAsk("strokes/keep", body);
        kept.classList.remove("waiting");
        break;
      } catch (error) {
        if (!passes(error)) {
          session.complain(error);
          session.refresh();
          break;
        }
        kept.classList.add("waiting");
        kept.textContent = "not kept yet";
        say(`${error.message} Your last stroke is held here and kept as soon as that is over.`);
        await wait(AGAIN);
      }
    }
    held -= 1;
  }
}
