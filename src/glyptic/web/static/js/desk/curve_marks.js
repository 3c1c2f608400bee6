/** What is marked on the curve: where it cannot be trusted, and where the spot under the pointer lies on each channel. */

import { drawn, find, make, maybe } from "../core/dom.js";

/** @typedef {{ kind: string, low: number, high: number, share: number }} Fault */

/** @type {Record<string, string>} */
const WORDS = { flat: "Nearly flat", falling: "Falls: tones are turned round", clipped: "Clips" };
const MOST_TOLD = 3;
/** @type {Record<string, string[]>} */
const WITH = { rgb: ["red", "green", "blue", "rgb"], tone: ["tone"] };
const COLOURS = ["red", "green", "blue"];

const percent = (/** @type {number} */ share) => (share > 0 && share < 0.005 ? "less than 1 %" : `${Math.round(share * 100)} %`);

/** The height of a path, sampled evenly, at x in 0..1. @param {string} path @param {number} x */
function heightAt(path, x) {
  const places = path.slice(1).split("L");
  return Number(places[Math.round(x * (places.length - 1))].split(",")[1]);
}

export class CurveMarks {
  /** @type {Record<string, Fault[]>} */
  #faults = {};
  /** @type {Record<string, number> | null} */
  #meets = null;
  #channel = "rgb";
  /** @type {Record<string, string>} */
  #paths = {};

  /** @param {import("../core/bench.js").Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.box = bench.declared.curve;
  }

  get #svg() { return maybe(this.bench.root, "#curve", SVGElement); }

  /** Draw the marks anew for a channel; without `faults` they stay as they were. @param {string} channel @param {Record<string, string>} paths @param {Record<string, Fault[]>} [faults] */
  draw(channel, paths, faults = this.#faults) {
    this.#channel = channel;
    this.#paths = paths;
    this.#faults = faults;
    this.#drawFaults();
    this.#drawSpot();
  }

  /** @param {Record<string, Fault[]> | undefined} found */
  showFaults(found) {
    this.#faults = found ?? {};
    this.#drawFaults();
  }

  /** Where the spot under the pointer lies on each curve, or null. @param {Record<string, number> | null} places */
  showUnder(places) {
    this.#meets = places && Object.keys(places).length ? places : null;
    this.#drawSpot();
  }

  #drawFaults() {
    const svg = this.#svg;
    if (!svg) return;
    const { width, height } = this.box;
    const found = this.#faults[this.#channel] ?? [];
    find(svg, ".faults", SVGElement).replaceChildren(
      ...found.map(({ kind, low, high }) => drawn("rect", { class: kind, x: low * width, y: 0, width: Math.max(1.5, (high - low) * width), height })),
    );
    const told = [...found].toSorted((a, b) => b.share - a.share).slice(0, MOST_TOLD);
    find(this.bench.root, "#curve-faults", HTMLElement).replaceChildren(...told.map((fault) => this.#row(fault)));
  }

  /** @param {Fault} fault */
  #row({ kind, low, high, share }) {
    const words = make("span", { textContent: `${WORDS[kind]} from ${Math.round(low * 100)} to ${Math.round(high * 100)} %: ${percent(share)} of the pixels` });
    const mend = make("button", { type: "button", className: "quiet-button", textContent: "Smooth", title: "Moves the two nearest points as little as needed", "data-mend": JSON.stringify({ low, high }) });
    return make("li", { className: kind }, words, mend);
  }

  #drawSpot() {
    const svg = this.#svg;
    if (!svg) return;
    const { width, height } = this.box;
    const shown = WITH[this.#channel] ?? COLOURS;
    const meets = this.#meets;
    const marks = [];
    for (const name of meets ? shown.filter((one) => this.#paths[one]) : []) {
      const x = (meets?.[name] ?? 0) * width;
      if (name === this.#channel) marks.push(drawn("path", { class: "here", d: `M${x} 0V${height}` }));
      marks.push(drawn("circle", { class: name, cx: x, cy: heightAt(this.#paths[name], meets?.[name] ?? 0), r: name === this.#channel ? 4 : 3 }));
    }
    find(svg, ".spots", SVGElement).replaceChildren(...marks);
  }
}
