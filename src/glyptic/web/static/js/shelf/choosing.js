/** Choosing plates: by ticks, by Ctrl and Shift, by arrows and Space; what is done to them stands in a bar below. */

import { all, find, make } from "../core/dom.js";
import { say } from "../core/says.js";

/** @typedef {import("./view.js").View} View */

const NEW_SHOOT = "new";
const UNDONE_FOR = 30;

export class Choosing {
  /** @type {Set<number>} */
  #chosen = new Set();
  /** Where a range begins. */
  #from = 0;

  /** @param {View} view */
  constructor(view) {
    this.view = view;
    this.bar = find(document, "#chosen-bar", HTMLElement);
    this.into = find(this.bar, "#chosen-into", HTMLSelectElement);
    view.addEventListener("change", () => this.#kept());
    view.addEventListener("grown", (event) => this.#showOn(/** @type {CustomEvent} */ (event).detail));
    view.root.addEventListener("click", (event) => this.#pressed(event), true);
    view.root.addEventListener("change", (event) => this.#ticked(event));
    document.addEventListener("keydown", (event) => this.#key(event));
    this.into.addEventListener("change", () => this.#gather());
    find(this.bar, "[data-chosen-none]", HTMLElement).addEventListener("click", () => this.#choose([]));
    find(this.bar, "[data-chosen-remove]", HTMLElement).addEventListener("click", () => this.#remove());
    find(this.bar, "#chosen-marks", HTMLElement).addEventListener("click", ({ target }) => { if (target instanceof HTMLElement && target.dataset.mark) this.#mark([...this.#chosen], target); });
    this.#kept();
  }

  /** The chosen plates in the order of the shelf. */
  get plates() { return this.view.numbers.filter((number) => this.#chosen.has(number)); }

  /** @param {Iterable<number>} numbers */
  #choose(numbers) {
    this.#chosen = new Set(numbers);
    this.#show();
  }

  /** What is not looked at any more is not chosen any more. */
  #kept() {
    const there = new Set(this.view.numbers);
    this.#choose([...this.#chosen].filter((number) => there.has(number)));
  }

  /** @param {HTMLElement[]} cards */
  #showOn(cards) {
    for (const card of cards) {
      const on = this.#chosen.has(Number(card.dataset.plate));
      card.classList.toggle("chosen", on);
      find(card, "[data-tick]", HTMLInputElement).checked = on;
    }
  }

  #show() {
    this.#showOn(this.view.cards);
    const count = this.#chosen.size;
    this.bar.hidden = !count;
    document.body.classList.toggle("choosing", count > 0);
    find(this.bar, "#chosen-count", HTMLElement).textContent = `${count} chosen`;
    find(this.bar, "[data-chosen-words]", HTMLAnchorElement).search = `?plates=${this.plates.join(",")}`;
    this.#fillBar();
    document.dispatchEvent(new CustomEvent("chosen", { detail: this.plates }));
  }

  #fillBar() {
    const shoots = this.view.shoots.map(({ id, name }) => make("option", { value: String(id), textContent: name }));
    this.into.replaceChildren(make("option", { value: "", textContent: "a shoot …" }), ...shoots, make("option", { value: NEW_SHOOT, textContent: "a new shoot" }), make("option", { value: "0", textContent: "no shoot" }));
    const drawn = this.view.cards.filter(({ dataset }) => this.#chosen.has(Number(dataset.plate)));
    const first = all(this.view.root, ".plate-card .mark-row", HTMLElement)[0];
    const chips = first ? all(first, ".mark-chip", HTMLElement).map((chip) => {
      const all_ = drawn.length > 0 && drawn.every(({ dataset }) => Number(dataset.marks) & Number(chip.dataset.mark));
      return make("button", { type: "button", className: chip.className, textContent: chip.textContent, "data-mark": chip.dataset.mark, "aria-pressed": all_ ? "true" : "false" });
    }) : [];
    find(this.bar, "#chosen-marks", HTMLElement).replaceChildren(...chips);
  }

  /** @param {number} number @param {boolean} range */
  #toggle(number, range) {
    const { numbers } = this.view;
    if (range && this.#chosen.size) {
      const [a, b] = [numbers.indexOf(this.#from), numbers.indexOf(number)];
      this.#choose([...this.#chosen, ...numbers.slice(Math.min(a, b), Math.max(a, b) + 1)]);
      return;
    }
    this.#from = number;
    const next = new Set(this.#chosen);
    if (!next.delete(number)) next.add(number);
    this.#choose(next);
  }

  /** @param {Event} event */
  #ticked(event) {
    const { target } = event;
    if (target instanceof HTMLInputElement && target.dataset.tick) this.#toggle(Number(target.dataset.tick), false);
  }

  /** @param {MouseEvent} event */
  #pressed(event) {
    const { target } = event;
    if (!(target instanceof Element)) return;
    const card = target.closest(".plate-card");
    const chip = target.closest(".mark-chip[data-mark]");
    if (target.closest("[data-choose-all]")) this.#choose(this.view.numbers);
    else if (card instanceof HTMLElement && chip instanceof HTMLElement) this.#mark([Number(card.dataset.plate)], chip);
    else if (card instanceof HTMLElement && target.closest(".picture, .tick") && (event.shiftKey || (event.ctrlKey || event.metaKey) && target.closest(".picture"))) {
      event.preventDefault();
      this.#toggle(Number(card.dataset.plate), event.shiftKey);
    }
  }

  /** @param {KeyboardEvent} event */
  #key(event) {
    const { target, key } = event;
    if (target instanceof HTMLElement && target.closest("input:not([type=checkbox]), textarea, select")) return;
    if (key === "Escape" && this.#chosen.size) this.#choose([]);
    else if (key === "a" && (event.ctrlKey || event.metaKey)) this.#choose(this.view.numbers);
    else if (!this.#onCard(event)) return;
    event.preventDefault();
  }

  /** A key on a card; false where it is none of ours. @param {KeyboardEvent} event */
  #onCard(event) {
    const { target, key } = event;
    const card = target instanceof HTMLElement ? target.closest(".plate-card") : null;
    if (!(card instanceof HTMLElement) || !(target instanceof HTMLElement) || !target.matches(".picture")) return false;
    const number = Number(card.dataset.plate);
    if (key === " ") {
      this.#toggle(number, event.shiftKey);
      return true;
    }
    const { cards } = this.view;
    const across = cards.filter((one) => one.offsetTop === cards[0]?.offsetTop).length;
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -across, ArrowDown: across, Home: -cards.length, End: cards.length }[key];
    if (step === undefined) return false;
    const next = cards[Math.min(Math.max(cards.indexOf(card) + step, 0), cards.length - 1)];
    if (!next) return false;
    find(next, ".picture", HTMLElement).focus();
    if (!event.shiftKey) return true;
    if (!this.#chosen.size) this.#toggle(number, false);
    this.#toggle(Number(next.dataset.plate), true);
    return true;
  }

  async #gather() {
    const { value } = this.into;
    const { plates } = this;
    if (value === NEW_SHOOT) {
      const name = find(this.view.root, "#new-shoot input", HTMLInputElement);
      name.dataset.plates = "chosen";
      name.focus();
      say("Type the name of the new shoot at the left, and press Enter: the chosen plates go into it.");
    } else if (value) await this.view.deed("/plates/gather", { plates, shoot: Number(value) });
    this.into.value = "";
  }

  /** @param {number[]} plates @param {HTMLElement} chip */
  #mark(plates, { dataset, ariaPressed }) { return this.view.deed("/plates/mark", { plates, mark: Number(dataset.mark), on: ariaPressed !== "true" }); }

  async #remove() {
    const { plates } = this;
    if (!await this.view.deed("/plates/bin", { plates })) return;
    say(`${plates.length === 1 ? "A plate is" : `${plates.length} plates are`} in the bin.`, UNDONE_FOR, { words: "Put back", press: () => { this.view.deed("/plates/bin", { plates, back: true }); } });
  }
}
