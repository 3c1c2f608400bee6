/** The log: the history of steps as a tree; a press goes to any of them, pointing shows it small, words find it. */

import { find } from "../core/dom.js";
import { getHtml } from "../core/server.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const PATIENCE = 160;

export class Log {
  #asked = 0;
  #timer = 0;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.search = find(bench.root, "#log-search", HTMLInputElement);
    this.picture = find(bench.root, "#log-picture", HTMLImageElement);
    const { events, keys, session, panels } = bench;
    events.on("click", "[data-go-to]", (_, entry) => session.ask("go", { to: Number(entry.dataset.goTo) }));
    events.on("click", "[data-compare-step]", (_, { dataset }) => bench.comparing.compareWith("step", Number(dataset.compareStep), dataset.words));
    events.on("click", "[data-do]", (_, button) => session.ask(button.dataset.do));
    events.on("input", "#log-search", () => this.#show(false));
    events.on("pointerover focusin", "[data-go-to]", (_, entry) => this.#point(entry));
    events.on("pointerout focusout", "[data-go-to]", () => this.#pointAway());
    keys.bind("undo", () => session.ask("undo"));
    keys.bind("redo", () => session.ask("redo"));
    panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "log") this.#show(true); });
    panels.addEventListener("closed", () => this.#pointAway());
    session.addEventListener("state", (event) => {
      if (/** @type {CustomEvent} */ (event).detail.before.revision !== session.state.revision && panels.now === "log") this.#show(false);
    });
  }

  /** Show a step small, beside the list. @param {HTMLElement} entry */
  #point(entry) {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => {
      const { top } = entry.getBoundingClientRect();
      this.picture.src = entry.dataset.picture ?? "";
      this.picture.style.top = `${Math.max(56, Math.min(top - 40, innerHeight - 300))}px`;
      this.picture.hidden = false;
    }, PATIENCE);
  }

  #pointAway() {
    clearTimeout(this.#timer);
    this.picture.hidden = true;
  }

  /** @param {boolean} isNew */
  async #show(isNew) {
    const number = (this.#asked += 1);
    const list = find(this.bench.root, "#log-entries", HTMLElement);
    const focused = document.activeElement instanceof HTMLElement ? document.activeElement.dataset.goTo : undefined;
    const query = new URLSearchParams({ q: this.search.value.trim() });
    let html;
    try {
      html = await getHtml(`${this.bench.session.url}log?${query}`);
    } catch (error) {
      this.bench.session.complain(error);
      return;
    }
    if (number !== this.#asked) return;
    list.innerHTML = html;
    /** @type {any} */ (globalThis).htmx?.process(list);
    const same = focused ? list.querySelector(`[data-go-to="${focused}"]`) : null;
    const first = list.querySelector(".entry-now button") ?? list.querySelector("button");
    const place = same ?? (isNew ? first : null);
    if (place instanceof HTMLElement) place.focus();
  }
}
