/** The press that the view As printed proofs: whose profile, how, and what of the plate it cannot print. */

import { all, find } from "../core/dom.js";
import { say } from "../core/says.js";
import { post, postForm } from "../core/server.js";
import { keep, recall } from "../core/store.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export const PRINTED = "printed";
const STORED = "glyptic-press";
const PATIENCE = 400;
const TOLD = 0.0005;
const percent = (/** @type {number} */ share) => `${(share * 100).toFixed(1)} %`;

export class Printing extends EventTarget {
  #later = 0;
  #shown = false;

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.bench = bench;
    this.box = find(bench.root, "#press", HTMLElement);
    this.form = find(this.box, "form", HTMLFormElement);
    this.says = find(this.box, "output", HTMLElement);
    this.#recall();
    this.form.addEventListener("change", (event) => this.#changed(/** @type {HTMLElement} */ (event.target)));
    bench.session.addEventListener("state", () => this.#tellSoon());
  }

  #recall() {
    const kept = recall(STORED, this.values);
    for (const control of this.#controls) {
      if (control instanceof HTMLInputElement) control.checked = Boolean(kept[control.name]);
      else if ([...control.options].some((option) => option.value === kept[control.name])) control.value = kept[control.name];
    }
  }

  /** @returns {(HTMLSelectElement | HTMLInputElement)[]} */
  get #controls() {
    return [...all(this.form, "select", HTMLSelectElement), ...all(this.form, 'input[type="checkbox"]', HTMLInputElement)];
  }

  /** What the server is asked for. @returns {Record<string, any>} */
  get values() {
    return Object.fromEntries(this.#controls.map((control) => [control.name, control instanceof HTMLInputElement ? control.checked : control.value]));
  }

  /** @param {HTMLElement} control */
  async #changed(control) {
    if (control instanceof HTMLInputElement && control.type === "file") await this.#bring(control);
    keep(STORED, this.values);
    this.#tellSoon();
    this.dispatchEvent(new Event("change"));
  }

  /** Keep a profile that was brought, and proof it. @param {HTMLInputElement} control */
  async #bring(control) {
    const [file] = control.files ?? [];
    control.value = "";
    if (!file) return;
    const body = new FormData();
    body.set("profile", file);
    try {
      const found = await postForm(control.dataset.to ?? "", body);
      find(this.form, "select[name=press]", HTMLSelectElement).innerHTML = found.html;
      say(`Proofed by ${found.name}.`);
    } catch (error) {
      this.bench.session.complain(error);
    }
  }

  /** Its controls are there while the view is. @param {boolean} shown */
  show(shown) {
    const changed = shown !== this.#shown;
    this.#shown = shown;
    this.box.hidden = !shown;
    if (changed && shown) this.#tellSoon();
  }

  #tellSoon() {
    clearTimeout(this.#later);
    if (this.#shown) this.#later = window.setTimeout(() => this.#tell(), PATIENCE);
  }

  /** Say how much cannot be printed, and on each card how much of that its layer brings. */
  async #tell() {
    const { session, root } = this.bench;
    const found = await post(`${session.url}printed`, { press: this.values }).catch(() => null);
    if (!found || found.revision !== session.state.revision || !this.#shown) return;
    const [most] = found.blamed;
    const whose = most ? `; ‘${most.name}’ brings ${percent(most.share)}` : "";
    this.says.textContent = found.finished < TOLD ? "All of it can be printed" : `${percent(found.finished)} cannot be printed${whose}`;
    this.says.title = found.blamed.map((/** @type {any} */ one) => `${one.name}: ${percent(one.share)}`).join(", ") || "No layer brings more than the picture had";
    for (const note of all(root, "#strip [data-clips]", HTMLElement)) {
      const share = found.layers[note.dataset.clips ?? ""] ?? 0;
      if (share >= TOLD) note.textContent = `unprintable ${percent(share)}`;
    }
  }
}
