/** Regions: scribbles on what belongs to an area and on what does not; the area grows to the picture's edges. */

import { drawn } from "../core/dom.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ points: number[][], size: number, belongs: boolean }} Scribble
 */

const LEAST_APART = 3;
/** How wide a scribble is, in pixels of the screen. */
const WIDTH = 6;

export class Regions {
  #fresh = false;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.overlay = bench.layerOf("overlay");
    const again = () => { if (bench.brush.hand === "region" && !bench.hand.isBusy) this.draw(); };
    bench.canvas.addEventListener("moved", again);
    bench.session.addEventListener("state", again);
  }

  /** The region that is worked on: the last one in the mask, or null for a new one. */
  get now() { return this.#fresh ? null : this.bench.session.state.regions.at(-1) ?? null; }

  /** Begin a new region with the next scribble. */
  begin() {
    this.#fresh = true;
    this.bench.brush.take("region");
  }

  /** @param {number[][]} points */
  #path(points) {
    return points.map(([x, y]) => this.bench.canvas.onStage(x, y)).map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L");
  }

  /** @param {Scribble} scribble */
  #mark(scribble) {
    const path = this.#path(scribble.points);
    return drawn("path", { class: scribble.belongs ? "scribble" : "scribble not", d: scribble.points.length > 1 ? `M${path}` : `M${path}h0.1` });
  }

  /** Show the scribbles of the region that is worked on, and the one being drawn. @param {Scribble} [more] */
  draw(more) {
    const seeds = [...this.now?.seeds ?? [], ...(more ? [more] : [])];
    this.overlay.replaceChildren(...seeds.map((seed) => this.#mark(/** @type {Scribble} */ (seed))));
  }

  /** Find an area: the region worked on anew with other settings, or a new one. @param {any} asked @param {number | null} [part] */
  async find(asked, part = this.now?.part ?? null) {
    const { session, waiting } = this.bench;
    const answer = await waiting.during("Looking for edges …", (signal) => session.ask("areas/region", { layer: session.chosen, part, ...asked }, { signal }));
    if (answer) this.#fresh = false;
    return answer;
  }

  /** @param {PointerEvent} event @param {boolean} belongs */
  press(event, belongs) { return new Scribbling(this, event, belongs); }

  /** A scribble is done: the region grows anew. @param {Scribble} scribble */
  async scribbled(scribble) {
    const { now } = this;
    if (scribble.belongs || now) await this.find({ seeds: [...now?.seeds ?? [], scribble] });
    this.draw();
  }
}

class Scribbling {
  /** @param {Regions} regions @param {PointerEvent} event @param {boolean} belongs */
  constructor(regions, event, belongs) {
    this.regions = regions;
    /** @type {Scribble} */
    this.scribble = { points: [], size: Number((WIDTH / regions.bench.canvas.zoom).toFixed(2)), belongs };
    this.move(event);
  }

  /** @param {PointerEvent} event */
  move(event) {
    const { canvas } = this.regions.bench;
    const { x, y } = canvas.at(event);
    const last = this.scribble.points.at(-1);
    const apart = last ? Math.hypot(x - last[0], y - last[1]) * canvas.zoom : LEAST_APART;
    if (apart >= LEAST_APART) this.scribble.points.push([Number(x.toFixed(1)), Number(y.toFixed(1))]);
    this.regions.draw(this.scribble);
  }

  end() { this.regions.scribbled(this.scribble); }

  giveUp() { this.regions.draw(); }
}
