/** The strip: choosing, switching, weakening and reordering layers by their cards. */

import Sortable from "../../vendor/sortable.esm.js";
import { all, find, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { FRAME } from "../core/session.js";
import { keep, recall } from "../core/store.js";
import { fillBars } from "../desk/bars.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const FOLDED = "glyptic-folded";
const NARROW = "glyptic-narrow-cards";

export class Strip {
  /** Cards that are chosen beside the one that is worked on. @type {Set<string>} */
  #also = new Set();
  #anchor = "";
  #folded = new Set(recall(FOLDED, /** @type {string[]} */ ([])));
  /** @type {Sortable[]} */
  #rows = [];

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.cards = find(bench.root, "#cards", HTMLElement);
    this.#bindCards();
    this.#bindKeys();
    this.#bindFolds();
    this.#bindNarrow();
    bench.session.addEventListener("state", (event) => {
      const { before } = /** @type {CustomEvent} */ (event).detail;
      this.#fresh();
      if (before.chosen !== bench.session.chosen) this.showChosen();
    });
    this.#fresh();
    this.showChosen();
  }

  /** The layers that are chosen, the one that is worked on first. */
  get chosen() {
    const ids = [...new Set([this.bench.session.chosen, ...this.#also])];
    return ids.length > 1 ? ids.filter((id) => id !== FRAME) : ids;
  }

  /** All cards in their order. */
  get #all() { return all(this.cards, "[data-choose]", HTMLElement).filter((card) => card.offsetParent !== null); }

  #bindCards() {
    const { events, session, showing } = this.bench;
    events.on("click", "#strip [data-show]", (_, { dataset }) => this.toggle(this.#also.has(dataset.show) ? this.chosen : [dataset.show]));
    events.on("click", "#strip [data-choose]", (event, card) => {
      if (event.target.closest("[data-opacity]")) return;
      this.#choose(card, event);
      if (event.target.closest(".emblem")) this.#openSoon("settings");
      else if (event.target.closest(".pic") && card.dataset.masked) this.#openSoon("mask");
    });
    events.on("input", "#strip [data-opacity]", (_, bar) => {
      find(bar.closest(".card"), ".share", HTMLElement).textContent = `${bar.value} %`;
      if (!this.#weakensSeveral(bar)) showing.draftSet("opacity", Number(bar.value) / 100, bar.dataset.opacity);
    });
    events.on("change", "#strip [data-opacity]", (_, bar) => {
      const value = Number(bar.value) / 100;
      if (this.#weakensSeveral(bar)) session.edit("set-layers", { layers: this.chosen, field: "opacity", value });
      else session.set("opacity", value, bar.dataset.opacity);
    });
    events.on("dblclick", "#strip .name", () => this.bench.keys.press("rename"));
  }

  /** Open a leaf of the layer that is being chosen. @param {string} leaf */
  async #openSoon(leaf) {
    await this.bench.session.settled;
    this.bench.desk.open(leaf);
  }

  /** @param {HTMLElement} bar */
  #weakensSeveral(bar) { return this.#also.size > 0 && this.chosen.includes(bar.dataset.opacity ?? ""); }

  /** Choose a card; with Ctrl one more or one less, with Shift all from the last one on. @param {HTMLElement} card @param {{ ctrlKey?: boolean, metaKey?: boolean, shiftKey?: boolean }} event */
  #choose(card, event) {
    const layer = card.dataset.choose ?? "";
    const { session } = this.bench;
    if (event.shiftKey) this.#chooseRange(layer);
    else if (event.ctrlKey || event.metaKey) this.#chooseOneMore(layer);
    else {
      this.#also.clear();
      this.#anchor = layer;
      if (layer !== session.chosen) session.ask("choose", { layer });
    }
    this.#mark();
  }

  /** @param {string} layer */
  #chooseRange(layer) {
    const order = this.#all.map((card) => card.dataset.choose ?? "");
    const from = order.indexOf(this.#anchor || this.bench.session.chosen);
    const to = order.indexOf(layer);
    const [first, last] = from < to ? [from, to] : [to, from];
    this.#also = new Set(order.slice(Math.max(first, 1), last + 1));
  }

  /** @param {string} layer */
  #chooseOneMore(layer) {
    this.#also.add(this.bench.session.chosen);
    if (layer !== this.bench.session.chosen && !this.#also.delete(layer)) this.#also.add(layer);
    if (this.#also.size === 1) this.#also.clear();
    this.#anchor = layer;
  }

  /** Choose these cards, the first to be worked on. @param {string[]} layers */
  async chooseThese([first, ...others]) {
    await this.bench.session.ask("choose", { layer: first });
    this.#also = new Set(others.length ? [first, ...others] : []);
    this.#mark();
  }

  /** Let go of the cards that are chosen beside the one worked on; false if there are none. */
  letGo() {
    if (!this.#also.size) return false;
    this.#also.clear();
    this.#mark();
    return true;
  }

  #mark() {
    const { chosen } = this.bench.session;
    this.#also = new Set([...this.#also].filter((id) => maybe(this.cards, `[data-choose="${CSS.escape(id)}"]`, HTMLElement)));
    if (this.#also.size === 1 && this.#also.has(chosen)) this.#also.clear();
    for (const card of all(this.cards, "[data-choose]", HTMLElement)) {
      const isAlso = this.#also.has(card.dataset.choose ?? "") && card.dataset.choose !== chosen;
      card.closest(".wrap")?.classList.toggle("also", isAlso);
      const isChosen = isAlso || card.dataset.choose === chosen;
      find(card, ".choose", HTMLElement).setAttribute("aria-pressed", String(isChosen));
    }
    this.#tellCount();
  }

  /** The desk says how many cards are chosen, and what is done to all of them. */
  #tellCount() {
    const told = maybe(this.bench.root, "#several", HTMLElement);
    if (!told) return;
    const count = this.chosen.length;
    told.hidden = count < 2;
    told.textContent = count < 2 ? "" : `${count} cards are chosen: opacity, blend and the deeds at the foot act on all of them. Escape lets go.`;
  }

  #bindKeys() {
    const { keys } = this.bench;
    keys.bind("switch", () => this.toggle(this.chosen));
    for (const key of ["choose-card", "choose-more"]) keys.bind(key, (event, button) => this.#choose(button.closest("[data-choose]"), event));
    keys.bind("next-card", (event, button) => {
      const cards = this.#all;
      const at = cards.indexOf(button.closest("[data-choose]"));
      const next = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: cards.length - 1 }[event.key] ?? at;
      maybe(cards[Math.min(cards.length - 1, Math.max(0, next))], ".choose", HTMLElement)?.focus();
    });
  }

  /** Switch layers on or off together: off if any of them is on. @param {string[]} layers */
  toggle(layers) {
    const facets = layers.map((id) => maybe(this.cards, `[data-show="${CSS.escape(id)}"]`, HTMLElement)).filter((facet) => facet !== null);
    if (!facets.length) return;
    const visible = !facets.some((facet) => facet.getAttribute("aria-pressed") === "true");
    this.bench.session.edit("show-layers", { layers: facets.map((facet) => facet.dataset.show), visible });
  }

  /** Put the chosen cards into a group. */
  group() {
    const layers = this.chosen;
    this.#also.clear();
    this.bench.session.edit("group-layers", { layers });
  }

  /** @param {string} layer */
  #foldName(layer) { return `${this.bench.session.url} ${layer}`; }

  #bindFolds() {
    this.bench.events.on("click", "#strip [data-collapse]", (_, tag) => {
      const name = this.#foldName(tag.dataset.collapse);
      if (!this.#folded.delete(name)) this.#folded.add(name);
      keep(FOLDED, [...this.#folded]);
      this.#drawFolds();
    });
  }

  #drawFolds() {
    for (const tag of all(this.cards, "[data-collapse]", HTMLElement)) {
      const isFolded = this.#folded.has(this.#foldName(tag.dataset.collapse ?? ""));
      tag.setAttribute("aria-expanded", String(!isFolded));
      tag.closest(".group")?.classList.toggle("folded", isFolded);
    }
  }

  #bindNarrow() {
    const strip = find(this.bench.root, "#strip-row", HTMLElement);
    const show = (/** @type {boolean} */ narrow) => {
      strip.classList.toggle("narrow", narrow);
      for (const button of all(strip, "[data-narrow]", HTMLElement)) button.setAttribute("aria-pressed", String(narrow));
      this.cards.dispatchEvent(new Event("scroll"));
    };
    show(recall(NARROW, false));
    this.bench.events.on("click", "[data-narrow]", () => {
      const narrow = !strip.classList.contains("narrow");
      keep(NARROW, narrow);
      show(narrow);
    });
  }

  /** @param {any} dropped */
  async #dropped({ item, from, to }) {
    let next = item.nextElementSibling;
    while (next && !next.dataset.layer) next = next.nextElementSibling;
    const answer = await this.bench.session.edit("move-layer", { layer: item.dataset.layer, before: next?.dataset.layer ?? null, into: to.dataset.row || null });
    if (answer && (to.dataset.row === FRAME) !== (from.dataset.row === FRAME)) say(answer.said);
  }

  /** After the strip was drawn anew. */
  #fresh() {
    for (const row of this.#rows) row.destroy();
    this.cards = find(this.bench.root, "#cards", HTMLElement);
    this.#rows = all(this.bench.root, "#strip [data-row]", HTMLElement).map((row) => new Sortable(row, {
      group: "layers", animation: 120, draggable: "[data-layer]", filter: "input, .facet, .mask-grip", preventOnFilter: false, delay: 150, delayOnTouchOnly: true,
      onMove: (/** @type {any} */ { related, willInsertAfter }) => !(related.previousElementSibling === null && related.parentElement.dataset.row === "" && !willInsertAfter),
      onEnd: (/** @type {any} */ event) => this.#dropped(event),
    }));
    for (const grip of all(this.cards, ".mask-grip", HTMLElement)) grip.draggable = true;
    this.#mark();
    this.#drawFolds();
    fillBars(this.cards);
    this.cards.dispatchEvent(new Event("scroll"));
  }

  /** Bring the chosen card into sight, unfolding the group it lies in. */
  showChosen() {
    const card = maybe(this.cards, `#card-${CSS.escape(this.bench.session.chosen)}`, HTMLElement);
    card?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
}
