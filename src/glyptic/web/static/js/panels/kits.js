/** Keeping chosen cards as a kit: named, described, with or without what is painted, anew or in place of another. */

import { all, find, make } from "../core/dom.js";
import { say } from "../core/says.js";
import { getHtml, post, Refusal } from "../core/server.js";
import { FRAME } from "../core/session.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Kits {
  #keeping = false;
  #taken = 0;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.panel = find(bench.root, "#kit", HTMLElement);
    this.form = find(this.panel, "#kit-form", HTMLFormElement);
    this.problem = find(this.form, ".problem", HTMLElement);
    this.instead = find(this.form, "[data-keep-instead]", HTMLElement);
    this.which = find(this.form, '[name="instead"]', HTMLSelectElement);
    const { events, keys, panels, session } = bench;
    keys.bind("keep-kit", () => panels.open("kit"));
    events.on("submit", "#kit-form", (event) => {
      event.preventDefault();
      this.#keep(Number(this.which.value) || null);
    });
    events.on("click", "[data-keep-instead]", () => this.#keep(this.#taken));
    events.on("change", '#kit-form [name="instead"]', () => this.#taking());
    panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "kit") this.#open(); });
    session.addEventListener("state", () => { if (panels.now === "kit") this.#tellHolds(); });
  }

  /** @param {string} name */
  #field(name) { return /** @type {HTMLInputElement} */ (this.form.elements.namedItem(name)); }

  /** The cards that are kept: the chosen ones but the base. */
  get #cards() { return this.bench.strip.chosen.filter((id) => id !== this.bench.session.state.base); }

  #tellHolds() {
    const names = this.#cards.map((id) => (id === FRAME ? "the frame's layers" : find(this.bench.root, `[data-choose="${CSS.escape(id)}"]`, HTMLElement).dataset.name));
    find(this.panel, "#kit-holds", HTMLElement).textContent = names.length ? `Keeps ${names.join(", ")}.` : "Choose the cards to keep: Ctrl and a press chooses one more, Shift a range.";
    return names;
  }

  async #open() {
    const names = this.#tellHolds();
    this.#refused("");
    const name = this.#field("name");
    if (!name.value && names.length === 1) name.value = names[0] ?? "";
    name.focus();
    name.select();
    const { session } = this.bench;
    try {
      const list = make("div", { innerHTML: await getHtml(`${session.url}kits`) });
      const kits = all(list, "[data-kit]", HTMLElement).map(({ dataset }) => make("option", { value: dataset.kit, textContent: dataset.kitName, "data-note": dataset.kitNote }));
      this.which.replaceChildren(make("option", { value: "", textContent: "no other: a new one" }), ...kits);
    } catch (error) {
      session.complain(error);
    }
  }

  /** A kit that is kept anew keeps its name and its note. */
  #taking() {
    const option = this.which.selectedOptions[0];
    if (!option?.value) return;
    this.#field("name").value = option.textContent ?? "";
    this.#field("note").value = option.dataset.note ?? "";
  }

  /** @param {string} message @param {number} [taken] the kit that is called so already */
  #refused(message, taken = 0) {
    this.#taken = taken;
    this.problem.textContent = message;
    this.problem.hidden = !message;
    this.instead.hidden = !taken;
  }

  /** @param {number | null} instead */
  async #keep(instead) {
    const { session, panels, stage } = this.bench;
    if (this.#keeping) return;
    this.#keeping = true;
    await session.settled;
    try {
      const { name } = await post(`${session.url}kits`, { layers: this.#cards, name: this.#field("name").value, note: this.#field("note").value, painting: this.#field("painting").checked, over: this.#field("over").checked, instead });
      this.form.reset();
      panels.close();
      stage.focus({ preventScroll: true });
      say(`‘${name}’ is kept. It stands first in Add, on every plate.`);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.#refused(error.message, error.body?.taken);
      const taken = [...this.which.options].find(({ value }) => value === String(error.body?.taken));
      if (taken && !this.#field("note").value) this.#field("note").value = taken.dataset.note ?? "";
    } finally {
      this.#keeping = false;
    }
  }
}
