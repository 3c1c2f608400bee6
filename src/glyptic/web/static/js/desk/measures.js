/** Histograms, the layer's sentence, and the numbers under the pointer. */

import { begin, end } from "../core/busy.js";
import { all, find, maybe } from "../core/dom.js";
import { get } from "../core/server.js";
import { UNFRAMED } from "../core/showing.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ target: string, to: number | "even", opacity: number }} ForChip
 */

const PATIENCE = 120;
/** What each layer clips takes longer to find: it is asked for when nothing has followed for a while more. */
const CLIPS_AFTER = 700;
const [WIDTH, HEIGHT, WINDOW_HEIGHT, LEVELS_HEIGHT] = [276, 44, 56, 72];
const CLIPS_TOLD = 0.0005;

/** The path of a histogram in a box: counts are drawn by their square root, so that small ones are seen. @param {number[]} counts @param {number} width @param {number} height @param {boolean} closed */
function plot(counts, width, height, closed) {
  const heights = counts.map(Math.sqrt);
  const top = Math.max(...heights.slice(1, -1), 1);
  const places = heights.map((h, i) => `${((i + 0.5) * width) / counts.length} ${height - Math.min(1, h / top) * (height - 2)}`);
  return closed ? `M0 ${height}L${places.join("L")}L${width} ${height}Z` : `M${places.join("L")}`;
}

export class Measures {
  /** @type {any} */
  #latest = null;
  #timer = 0;
  #asked = 0;
  /** @type {Record<string, number>} */
  #clips = {};
  #clipsTimer = 0;
  #asking = false;
  /** @type {({ x: number, y: number, brush?: ForChip }) | null} */
  #wanted = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.numbers = new Map(all(bench.root, "[data-num]", HTMLElement).map((box) => [box.dataset.num ?? "", box]));
    this.chip = find(bench.stage, "#chip", HTMLElement);
    bench.session.addEventListener("state", () => this.soon());
  }

  /** Draw what was measured last. */
  draw() {
    const { root, session } = this.bench;
    const latest = this.#latest;
    if (!latest) return;
    find(root, "#hist-now", SVGElement).setAttribute("d", plot(latest.finished.tone, WIDTH, HEIGHT, true));
    find(root, "#hist-base", SVGElement).setAttribute("d", plot(latest.base.tone, WIDTH, HEIGHT, false));
    if (latest.layer !== session.chosen) return;
    find(root, "#says-layer", HTMLElement).textContent = latest.sentence;
    const shown = maybe(root, "#mask-shown", HTMLElement);
    if (shown && latest.shown !== null) shown.textContent = `${Math.round(latest.shown * 100)} %`;
    for (const path of all(root, "#desk [data-hist]", SVGElement)) this.#drawOne(path, latest);
    this.bench.curve?.marks.showFaults(latest.faults);
  }

  /** @param {SVGElement} path @param {any} latest */
  #drawOne(path, latest) {
    const { hist = "", of } = path.dataset;
    const { desk, declared } = this.bench;
    if (of) {
      path.setAttribute("d", plot(latest[hist].tone, WIDTH, WINDOW_HEIGHT, true));
      return;
    }
    const [name, height] = path.closest("#curve") ? [desk.tabOf("curves"), declared.curve.height] : [desk.tabOf("levels"), LEVELS_HEIGHT];
    path.setAttribute("d", plot(latest[hist][name], WIDTH, height, hist === "below"));
  }

  /** Say on each card how much its layer newly clips. */
  #drawClips() {
    for (const note of all(this.bench.root, "#strip [data-clips]", HTMLElement)) {
      const share = this.#clips[note.dataset.clips ?? ""] ?? 0;
      note.classList.toggle("clips", share >= CLIPS_TOLD);
      if (share >= CLIPS_TOLD) note.textContent = `clips ${(share * 100).toFixed(1)} %`;
    }
  }

  #clipsSoon() {
    const { session } = this.bench;
    clearTimeout(this.#clipsTimer);
    this.#clipsTimer = setTimeout(async () => {
      if (this.bench.showing.handAtWork) return void this.#clipsSoon();
      try {
        const found = await get(`${session.url}clips`);
        if (found.revision !== session.state.revision) return;
        this.#clips = found.clips;
        this.#drawClips();
      } catch { /* the next change asks again */ }
    }, CLIPS_AFTER);
  }

  /** Measure a while after the last change. */
  soon() {
    this.draw();
    this.#drawClips();
    if (this.#timer) clearTimeout(this.#timer);
    else begin();
    this.#timer = setTimeout(() => this.#measure(), PATIENCE);
  }

  /** When no hand is at work. */
  async #measure() {
    if (this.bench.showing.handAtWork) return void (this.#timer = setTimeout(() => this.#measure(), PATIENCE));
    this.#timer = 0;
    const number = (this.#asked += 1);
    try {
      const found = await get(`${this.bench.session.url}measures`);
      if (number === this.#asked) {
        this.#latest = found;
        this.draw();
        this.#clipsSoon();
      }
    } catch { /* the next change asks again */ }
    end();
  }

  /** The chip beside the ring: the spot now, and as a full stroke of the brush would leave it. @param {any} spot */
  #showChip(spot) {
    this.chip.hidden = !spot?.then;
    if (this.chip.hidden) return;
    find(this.chip, '[data-chip="now"]', HTMLElement).style.background = `rgb(${spot.swatch.join(" ")})`;
    find(this.chip, '[data-chip="then"]', HTMLElement).style.background = `rgb(${spot.then.join(" ")})`;
    find(this.chip, "span", HTMLElement).textContent = `${Math.round(spot.toneAfter * 100)} → ${Math.round(spot.toneThen * 100)} %`;
  }

  /** @param {string} name @param {string} text */
  #tell(name, text) {
    const box = this.numbers.get(name);
    if (box) box.textContent = text;
  }

  /** @param {any} spot */
  #showNumbers(spot) {
    const blank = !spot || spot.outside;
    const tone = (/** @type {number} */ t) => (blank ? "·" : `${Math.round(t * 100)} %`);
    this.#tell("toneBefore", tone(spot?.toneBefore));
    this.#tell("toneAfter", tone(spot?.toneAfter));
    ["R", "G", "B"].forEach((letter, i) => {
      this.#tell(`b${i}`, `${letter} ${blank ? "·" : spot.before[i]}`);
      this.#tell(`a${i}`, `${letter} ${blank ? "·" : spot.after[i]}`);
    });
    this.bench.curve?.marks.showUnder(blank ? null : spot.meets);
    this.#showChip(blank ? null : spot);
  }

  /** Show the numbers at a place of the picture, or none; one question at a time, the newest counts. With a brush the
   * chip shows what a full stroke would leave. @param {{ x: number, y: number } | null} place @param {ForChip} [brush] */
  async pointAt(place, brush) {
    const { session, canvas, showing } = this.bench;
    this.#wanted = place && { ...place, brush };
    if (this.#asking) return;
    this.#asking = true;
    while (this.#wanted) {
      const { x, y, brush: held } = this.#wanted;
      this.#wanted = null;
      const question = new URLSearchParams(/** @type {any} */ ({ x: x.toFixed(1), y: y.toFixed(1), level: canvas.level, ...held, ...(showing.view === UNFRAMED && { whole: 1 }) }));
      try {
        this.#showNumbers(await get(`${session.url}spot?${question}`));
      } catch { break; }
    }
    this.#asking = false;
    if (place === null) this.#showNumbers(null);
  }
}
