/**
 * A stroke while it is drawn and after: points go up, the true pixels under them come back, one request at a time;
 * when the hand lifts the whole stroke is kept. A stroke that cannot be sent stays here and is sent again.
 */

import { busyWith } from "./busy.js";
import { brush } from "./brush.js";
import { say } from "./says.js";
import { postForBytes, UNREACHABLE } from "./server.js";
import { session } from "./session.js";

const AGAIN = 1500;
const kept = document.querySelector("#kept");
let before = Promise.resolve();

const wait = (time) => new Promise((resolve) => { setTimeout(resolve, time); });

export class Stroke {
  #points = [];
  #sent = 0;
  #ended = false;
  #given = false;
  #number = crypto.randomUUID();

  constructor(isPen) {
    this.layer = session.chosen;
    this.target = brush.target;
    this.head = brush.head(isPen);
    this.isPen = isPen;
    const earlier = before;
    this.done = busyWith(earlier.then(() => this.#run()));
    before = this.done;
  }

  /** Add the points of a pointer event, the coalesced ones among them. */
  add(event) {
    const events = event.getCoalescedEvents?.() ?? [];
    for (const one of events.length ? events : [event]) {
      const { x, y } = session.canvas.at(one);
      const pressure = this.isPen ? Math.min(1, Math.max(0, one.pressure)) : 1;
      this.#points.push([Number(x.toFixed(2)), Number(y.toFixed(2)), Number(pressure.toFixed(4))]);
    }
  }

  end() { this.#ended = true; }

  giveUp() {
    this.#ended = true;
    this.#given = true;
  }

  async #run() {
    while (!this.#ended || this.#sent < this.#points.length) {
      if (this.#given) break;
      document.body.toggleAttribute("data-drawn", this.#sent === this.#points.length);
      if (this.#sent < this.#points.length) await this.#preview();
      else await wait(4);
    }
    document.body.removeAttribute("data-drawn");
    if (this.#given || !this.#points.length) session.refresh();
    else await this.#keep();
  }

  async #preview() {
    const from = this.#sent;
    const upTo = this.#points.length;
    const looking = session.looking;
    try {
      const bytes = await postForBytes(`${session.url}strokes/${this.#number}/points`, {
        layer: this.layer, target: this.target, stroke: from ? undefined : this.head, from, points: this.#points.slice(from, upTo), looking,
      });
      const length = new DataView(bytes).getUint32(0, true);
      const head = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length)));
      if (session.view === looking.view) session.canvas.patch(bytes.slice(4 + length), head.rect, head.level);
      this.#sent = upTo;
    } catch (error) {
      if (error.status === 404 && from) this.#sent = 0;
      else {
        this.#sent = upTo;
        if (error.status) say(error.message);
        if (error.status) this.#given = error.status !== 500;
      }
    }
  }

  /** Keep the whole stroke; while the server does not answer, say so and try again. */
  async #keep() {
    const body = { layer: this.layer, target: this.target, stroke: { ...this.head, points: this.#points } };
    for (;;) {
      try {
        await session.tryAsk("strokes/keep", body);
        kept.classList.remove("waiting");
        return;
      } catch (error) {
        if (error.status) {
          session.complain(error);
          session.refresh();
          return;
        }
        kept.classList.add("waiting");
        kept.textContent = "not kept yet";
        say(`${UNREACHABLE} Your last stroke is held here and kept as soon as it answers.`);
        await wait(AGAIN);
      }
    }
  }
}
