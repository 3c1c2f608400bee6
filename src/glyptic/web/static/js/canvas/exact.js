/** Exact at rest: when the hand has rested, what is on screen becomes the export itself, reduced; a small sign says so. */

import { SCREEN } from "./colours.js";
import { find } from "../core/dom.js";
import { post } from "../core/server.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

/** Milliseconds more that nothing happens before it begins. */
const REST = 600;
/** The least share that is told as a number. */
const LEAST_TOLD = 0.0001;

/** What is clipped of a whole picture, in words. @param {[number, number] | null} shares */
function inWords(shares) {
  if (!shares) return "";
  const [dark, light] = shares.map((share) => (share && share < LEAST_TOLD ? `under ${100 * LEAST_TOLD}` : (100 * share).toFixed(2).replace(/\.?0+$/, "")));
  return shares.some(Boolean) ? ` · clipped: ${dark} % dark, ${light} % light` : " · nothing clipped";
}

export class Exact {
  #ends = "";

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.sign = find(bench.root, "#exact", HTMLElement);
    this.views = new Set((this.sign.dataset.views ?? "").split(" "));
    const { showing } = bench;
    showing.addEventListener("looked", () => this.#say(""));
    showing.whenIdle(REST, (current) => this.#work(current));
  }

  /** @param {string} words */
  #say(words) {
    this.sign.textContent = words;
    this.sign.hidden = !words;
  }

  /** A few pieces at a time, so that whoever comes back to work waits for none of it. @param {() => boolean} current */
  async #work(current) {
    const { showing, session, canvas } = this.bench;
    const { view } = showing;
    if (!this.views.has(view)) return;
    this.#ends = "";
    const looking = { ...canvas.looking(view, session.chosen), screen: SCREEN, exact: true };
    if (looking.level && !(await this.#made(looking, current))) return;
    if (current()) this.#say(`exact${this.#ends}`);
  }

  /** Whether the exact pixels are on screen. @param {any} looking @param {() => boolean} current */
  async #made(looking, current) {
    const { session, canvas } = this.bench;
    for (let left = 1; left;) {
      if (!current()) return false;
      const answer = await post(`${session.url}exact`, { looking });
      ({ left } = answer);
      this.#ends = inWords(answer.clipped);
      if (!current() || answer.revision !== session.state.revision) return false;
      if (left) this.#say(`exact in a while: ${Math.max(0, Math.floor(100 * (1 - left / answer.of)))} %`);
    }
    const { keys } = await post(`${session.url}keys`, { looking });
    await canvas.prepare(keys, looking.level, current);
    if (!current() || !canvas.has(keys)) return false;
    await canvas.show(keys, looking.level);
    return true;
  }
}
