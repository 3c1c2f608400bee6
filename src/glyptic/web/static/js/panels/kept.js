/** How safe the work is: kept, being kept, or held here until the server can keep it; and a trouble the plate is in. */

import { find } from "../core/dom.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const MINUTE = 60;

export class Kept {
  #at = Date.now();
  #held = false;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.box = find(bench.root, "#kept", HTMLElement);
    const { session } = bench;
    session.addEventListener("keeping", (event) => this.#follow(/** @type {CustomEvent} */ (event).detail));
    session.addEventListener("state", (event) => {
      if (/** @type {CustomEvent} */ (event).detail.before.revision !== session.state.revision) this.#at = Date.now();
      this.#show();
    });
    globalThis.addEventListener("beforeunload", (event) => { if (this.#held) event.preventDefault(); });
    globalThis.addEventListener("online", () => bench.showing.refresh());
    setInterval(() => this.#show(), 1000);
    this.#show();
  }

  /** @param {string} what */
  #follow(what) {
    this.#held = what === "held" || (this.#held && what === "keeping");
    this.#show();
  }

  #show() {
    const seconds = Math.round((Date.now() - this.#at) / 1000);
    const ago = seconds < MINUTE ? `${seconds} s` : `${Math.round(seconds / MINUTE)} min`;
    this.box.classList.toggle("waiting", this.#held);
    this.box.textContent = this.#held ? "not kept yet" : `kept ${ago} ago`;
    const { trouble } = this.bench.session.state;
    const told = find(this.bench.root, "#trouble", HTMLElement);
    told.textContent = trouble;
    told.hidden = !trouble;
  }
}
