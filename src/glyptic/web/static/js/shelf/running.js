/** Setting up a run on the chosen plates: a kit, another plate's layers, or deliveries. */

import { all, find, maybe } from "../core/dom.js";
import { getHtml, post, Refusal } from "../core/server.js";

/** @typedef {import("./choosing.js").Choosing} Choosing */

const PERCENT = 100;

export class Running {
  /** @param {Choosing} choosing */
  constructor(choosing) {
    this.choosing = choosing;
    this.panel = find(document, "#run-panel", HTMLElement);
    this.body = find(this.panel, "#run-body", HTMLElement);
    find(document, "[data-chosen-run]", HTMLElement).addEventListener("click", () => this.#open());
    document.addEventListener("keydown", (event) => { if (event.key === "Escape" && !this.panel.hidden) this.#close(event); }, true);
    this.panel.addEventListener("click", ({ target }) => { if (target instanceof HTMLElement) this.#pressed(target); });
    this.panel.addEventListener("input", () => this.#show());
    this.panel.addEventListener("submit", (event) => {
      event.preventDefault();
      this.#begin();
    });
  }

  async #open() {
    const { plates } = this.choosing;
    find(this.panel, "h2", HTMLElement).textContent = plates.length === 1 ? "Run on one plate" : `Run on ${plates.length} plates`;
    this.body.innerHTML = await getHtml("/runs/new");
    this.panel.hidden = false;
    this.#show();
    maybe(this.body, 'input[name="kind"]', HTMLInputElement)?.focus();
  }

  /** @param {Event} [event] */
  #close(event) {
    event?.stopPropagation();
    this.panel.hidden = true;
    find(document, "[data-chosen-run]", HTMLElement).focus();
  }

  get #form() { return find(this.body, "form", HTMLFormElement); }

  get #kind() { return String(new FormData(this.#form).get("kind")); }

  #show() {
    for (const section of all(this.body, "[data-kind]", HTMLElement)) section.hidden = section.dataset.kind !== this.#kind;
    const kit = maybe(this.body, '[name="kit"]', HTMLSelectElement)?.selectedOptions[0];
    if (!kit) return;
    find(this.body, "#run-kit-note", HTMLElement).textContent = kit.dataset.note ?? "";
    const turned = find(this.body, '[name="opposite"]', HTMLInputElement);
    turned.disabled = kit.dataset.turns !== "yes";
    find(this.body, "output", HTMLElement).textContent = `${find(this.body, '[name="strength"]', HTMLInputElement).value} %`;
  }

  /** @param {HTMLElement} target */
  #pressed(target) {
    if (target.matches("[data-run-close]")) this.#close();
  }

  /** @param {string} message */
  #refused(message) {
    const place = find(this.body, ".problem", HTMLElement);
    place.textContent = message;
    place.hidden = !message;
  }

  get #settings() {
    const data = new FormData(this.#form);
    if (this.#kind === "kit") return { kit: Number(data.get("kit")), strength: Number(data.get("strength")) / PERCENT, opposite: data.has("opposite"), closed: data.has("closed") };
    if (this.#kind === "layers") return { from: Number(data.get("from")) };
    return { deliveries: all(this.body, "[data-deliver]", HTMLInputElement).filter(({ checked }) => checked).map(({ dataset }) => dataset.deliver) };
  }

  async #begin() {
    try {
      const { url } = await post("/runs", { kind: this.#kind, plates: this.choosing.plates, settings: this.#settings });
      location.href = url;
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      this.#refused(error.message);
    }
  }
}
