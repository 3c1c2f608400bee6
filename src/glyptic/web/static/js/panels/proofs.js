/** Proofs: pulled with a name and a note, compared with, returned to. */

import { all, find } from "../core/dom.js";
import { say } from "../core/says.js";
import { getHtml, post } from "../core/server.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Proofs {
  #pulling = false;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.panel = find(bench.root, "#proofs", HTMLElement);
    this.list = find(this.panel, "#proof-list", HTMLElement);
    this.name = find(this.panel, "#proof-name", HTMLInputElement);
    this.note = find(this.panel, "#proof-note", HTMLInputElement);
    const { events, keys, panels, session } = bench;
    keys.bind("pull-proof", () => this.#pullOrAsk());
    events.on("submit", "#proof-form", (event) => {
      event.preventDefault();
      this.#pull();
    });
    events.on("click", "[data-compare-proof]", (_, { dataset }) => this.#compare(dataset.compareProof, "split"));
    events.on("click", "[data-change-proof]", (_, { dataset }) => this.#compare(dataset.changeProof, "change"));
    events.on("click", "[data-return-proof]", (_, { dataset }) => session.ask("proofs/return", { proof: Number(dataset.returnProof) }));
    events.on("change", ".proof-name, .proof-note", (_, field) => this.#reword(field.closest(".proof")));
    events.on("change", "[data-on-sheet]", () => this.#showSheet());
    panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "proofs") this.#open(); });
    session.addEventListener("state", (event) => {
      this.#count();
      if (/** @type {CustomEvent} */ (event).detail.before.root !== session.state.root && panels.now === "proofs") this.#show();
    });
    this.#count();
  }

  get #proofs() { return this.bench.session.state.proofs; }

  #count() {
    const count = Object.keys(this.#proofs).length;
    const badge = find(this.bench.root, "#proof-count", HTMLElement);
    badge.textContent = String(count);
    badge.hidden = !count;
  }

  /** The key asks for a name; pressed again it takes the one that is there. */
  #pullOrAsk() {
    if (this.bench.panels.now === "proofs" && this.panel.contains(document.activeElement)) this.#pull();
    else if (this.bench.panels.now === "proofs") this.#ready();
    else this.bench.panels.open("proofs");
  }

  #ready() {
    this.name.placeholder = `Proof ${Object.keys(this.#proofs).length + 1}`;
    this.name.focus();
  }

  #open() {
    this.#show();
    this.#ready();
  }

  async #show() {
    try {
      this.list.innerHTML = await getHtml(`${this.bench.session.url}proofs`);
    } catch (error) {
      this.bench.session.complain(error);
      return;
    }
    /** @type {any} */ (globalThis).htmx?.process(this.list);
    this.#showSheet();
  }

  async #pull() {
    const { session, stage } = this.bench;
    if (this.#pulling) return;
    this.#pulling = true;
    const [name, note] = [this.name.value.trim(), this.note.value.trim()];
    [this.name.value, this.note.value] = ["", ""];
    await session.settled;
    try {
      const made = await post(`${session.url}proofs`, { revision: session.state.revision, name, note, number: crypto.randomUUID() });
      session.state.proofs = { [made.id]: made.name, ...this.#proofs };
      say(`‘${made.name}’ is kept for ever. Compare with it, or return to it, from Proofs.`);
      session.dispatchEvent(new CustomEvent("state", { detail: { before: session.state } }));
      if (this.bench.panels.now === "proofs") await this.#show();
      stage.focus({ preventScroll: true });
    } catch (error) {
      [this.name.value, this.note.value] = [name, note];
      session.complain(error);
    } finally {
      this.#pulling = false;
    }
  }

  /** @param {HTMLElement} line */
  async #reword(line) {
    const { session } = this.bench;
    const [name, note] = [find(line, ".proof-name", HTMLInputElement), find(line, ".proof-note", HTMLInputElement)];
    const { proof = "" } = line.dataset;
    try {
      await post(`${session.url}proofs/${proof}`, { name: name.value, note: note.value });
      session.state.proofs = { ...this.#proofs, [proof]: name.value };
      session.dispatchEvent(new CustomEvent("state", { detail: { before: session.state } }));
    } catch (error) {
      name.value = this.#proofs[proof];
      session.complain(error);
    }
  }

  /** @param {string} proof @param {string} view */
  #compare(proof, view) { this.bench.comparing.compareWith("proof", Number(proof), this.#proofs[proof] ?? "", view); }

  /** The contact sheet is of those that are ticked. */
  #showSheet() {
    const chosen = all(this.list, "[data-on-sheet]", HTMLInputElement).filter((box) => box.checked).map((box) => box.dataset.onSheet);
    const row = find(this.panel, "#contact-sheet", HTMLElement);
    row.hidden = !all(this.list, "[data-on-sheet]", HTMLInputElement).length;
    for (const link of all(row, "a", HTMLAnchorElement)) {
      if (chosen.length) link.href = `${this.bench.session.url}proofs/sheet.${link.dataset.format}?of=${chosen.join(",")}`;
      else link.removeAttribute("href");
    }
  }
}
