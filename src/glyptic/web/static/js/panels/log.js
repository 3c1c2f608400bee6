/** The log: the history of steps; a press goes to any of them. */

import { find } from "../core/dom.js";
import { getHtml } from "../core/server.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Log {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, keys, session, panels } = bench;
    events.on("click", "[data-go-to]", (_, entry) => session.ask("go", { to: Number(entry.dataset.goTo) }));
    events.on("click", "[data-compare-step]", (_, { dataset }) => bench.comparing.compareWith("step", Number(dataset.compareStep), dataset.words));
    events.on("click", "[data-do]", (_, button) => session.ask(button.dataset.do));
    keys.bind("undo", () => session.ask("undo"));
    keys.bind("redo", () => session.ask("redo"));
    panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "log") this.#show(true); });
    session.addEventListener("state", (event) => {
      if (/** @type {CustomEvent} */ (event).detail.before.revision !== session.state.revision && panels.now === "log") this.#show(false);
    });
  }

  /** @param {boolean} isNew */
  async #show(isNew) {
    const list = find(this.bench.root, "#log-entries", HTMLElement);
    const focused = document.activeElement instanceof HTMLElement ? document.activeElement.dataset.goTo : undefined;
    try {
      list.innerHTML = await getHtml(`${this.bench.session.url}log`);
    } catch (error) {
      this.bench.session.complain(error);
      return;
    }
    /** @type {any} */ (globalThis).htmx?.process(list);
    const same = focused ? list.querySelector(`[data-go-to="${focused}"]`) : null;
    const first = list.querySelector(".entry-now button") ?? list.querySelector("button");
    const place = same ?? (isNew ? first : null);
    if (place instanceof HTMLElement) place.focus();
  }
}
