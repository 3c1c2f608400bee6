/** Where to begin: on a plate without layers, what the picture has in numbers, each with the layer that answers it. */

import { maybe } from "../core/dom.js";
import { getHtml, Refusal } from "../core/server.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Beginning {
  #html = "";
  #root = "";

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    bench.events.on("click", "#desk [data-offer]", (_, { dataset }) => bench.session.ask(dataset.path, JSON.parse(dataset.offer)));
    bench.fresh(() => this.#show());
  }

  async #show() {
    const { session, root } = this.bench;
    const list = maybe(root, "#begin ol", HTMLElement);
    if (!list) return;
    if (this.#root !== session.state.root) {
      this.#root = session.state.root;
      try {
        this.#html = await getHtml(`${session.url}begin`);
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        this.#root = "";
        return;
      }
    }
    const place = maybe(root, "#begin ol", HTMLElement);
    if (place && this.#html) place.innerHTML = this.#html;
  }
}
