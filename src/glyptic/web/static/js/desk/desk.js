/** The desk: the chosen layer, its leaves, the tabs inside them, and what is done to the layer as a whole. */

import { all, find, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { CHOSEN } from "../core/session.js";
import { keep, recall } from "../core/store.js";
import { fillBars } from "./bars.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const LEAVES = "glyptic-leaves";
const COPIED = "glyptic-copied-settings";

export class Desk extends EventTarget {
  /** Which panel of a kind's settings is shown. @type {Record<string, string>} */
  #tabs = {};
  /** The leaf that each kind of layer was left on. @type {Record<string, string>} */
  #leaves = recall(LEAVES, {});
  #shown = "";
  #leaf = "settings";
  #beside = "mask";

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.bench = bench;
    this.column = find(bench.root, "#desk-column", HTMLElement);
    this.#bindLeaves();
    this.#bindDeeds();
    this.#bindKeys();
    bench.fresh(() => this.#fresh());
  }

  get #section() { return find(this.column, "#desk", HTMLElement); }

  get kind() { return this.#section.dataset.kind ?? ""; }

  /** The leaf that is open: 'settings', 'mask' or 'strokes'. */
  get leaf() { return this.#leaf; }

  #bindLeaves() {
    const { events } = this.bench;
    events.on("click", "#desk [data-leaf]", (_, { dataset }) => this.open(dataset.leaf));
    events.on("click", "#desk [data-tab]", (_, tab) => {
      const bar = tab.closest("[data-tabs]");
      this.#tabs[bar.dataset.tabs] = tab.dataset.tab;
      this.#showTab(bar);
    });
  }

  /** Open a leaf, and remember it for this kind of layer. @param {string} leaf */
  open(leaf) {
    this.#leaves[this.kind] = leaf;
    keep(LEAVES, this.#leaves);
    this.#show(leaf);
  }

  /** @param {string} leaf */
  #show(leaf) {
    this.#leaf = leaf;
    if (leaf !== "settings") this.#beside = leaf;
    this.column.dataset.open = leaf;
    this.column.dataset.beside = this.#beside;
    for (const tab of all(this.column, "[data-leaf]", HTMLElement)) {
      const isOpen = tab.dataset.leaf === leaf;
      tab.setAttribute("aria-selected", String(isOpen));
      tab.tabIndex = isOpen ? 0 : -1;
    }
    this.#keepFocus();
    this.dispatchEvent(new Event("leaf"));
  }

  /** A focus on a leaf that is put away goes to the tab of the one that is open. */
  #keepFocus() {
    const active = document.activeElement;
    if (active?.closest(".leaf") && !active.checkVisibility()) maybe(this.column, `[data-leaf="${this.#leaf}"]`, HTMLElement)?.focus();
  }

  /** The tab that is open in the settings of a kind. @param {string} kind */
  tabOf(kind) { return this.#tabs[kind] ?? "rgb"; }

  /** After the desk was drawn anew: another layer opens on its leaf, and on the tab where something was set. */
  #fresh() {
    const section = this.#section;
    const { layer = "", kind = "", begins } = section.dataset;
    const isNew = layer !== this.#shown;
    this.#shown = layer;
    fillBars(section);
    const bar = maybe(section, "[data-tabs]", HTMLElement);
    if (bar && isNew) this.#tabs[bar.dataset.tabs ?? ""] = bar.dataset.first ?? "";
    this.#show(isNew ? this.#firstLeaf(kind, begins ?? "") : this.#leaf);
    if (bar) this.#showTab(bar);
  }

  /** The leaf a layer opens on: a closed one that shows nothing yet with its mask, any other where its kind was left. @param {string} kind @param {string} begins */
  #firstLeaf(kind, begins) {
    if (begins) return begins;
    return this.#leaves[kind] ?? "settings";
  }

  /** @param {HTMLElement} bar */
  #showTab(bar) {
    const kind = bar.dataset.tabs ?? "";
    const tabs = all(bar, "[data-tab]", HTMLElement);
    if (!tabs.some((tab) => tab.dataset.tab === this.#tabs[kind])) this.#tabs[kind] = tabs[0].dataset.tab ?? "";
    for (const tab of tabs) {
      const isOpen = tab.dataset.tab === this.#tabs[kind];
      tab.setAttribute("aria-selected", String(isOpen));
      tab.tabIndex = isOpen ? 0 : -1;
    }
    for (const panel of all(this.#section, "[data-panel]", HTMLElement)) panel.hidden = panel.dataset.panel !== this.#tabs[kind];
    this.dispatchEvent(new CustomEvent("tab", { detail: kind }));
  }

  #bindDeeds() {
    const { session, events, strip } = this.bench;
    const layers = () => strip.chosen;
    const deeds = /** @type {Record<string, (button: HTMLElement) => unknown>} */ ({
      "lock": (button) => session.edit("set-layers", { layers: layers(), field: "locked", value: button.dataset.value === "true" }),
      "mark": (button) => session.edit("set-layers", { layers: layers(), field: "mark", value: button.dataset.value }),
      "duplicate-layers": () => session.edit("duplicate-layers", { layers: this.#meant() }),
      "remove-layers": () => session.edit("remove-layers", { layers: this.#meant() }),
      "group-layers": () => strip.group(),
      "ungroup-layer": (button) => session.edit("ungroup-layer", { layer: CHOSEN, anyway: button.dataset.anyway === "true" }),
      "move-up": () => session.edit("move-layers", { layers: this.#meant(), by: "later" }),
      "move-down": () => session.edit("move-layers", { layers: this.#meant(), by: "earlier" }),
      "out-of-group": () => session.edit("take-out", { layers: this.#meant() }),
      "add-mask": (button) => session.edit("add-mask", { layer: CHOSEN, start: button.dataset.start }),
      "unlink-mask": () => session.edit("unlink-mask", { layer: CHOSEN }),
      "remove-mask": () => session.edit("remove-mask", { layer: CHOSEN }),
      "reset": (button) => session.set(button.dataset.resets ?? "settings", JSON.parse(button.dataset.defaults ?? "{}")),
      "copy-settings": () => this.#copy(),
      "paste-settings": () => this.#paste(),
    });
    events.on("click", "#desk [data-edit]", (_, button) => deeds[button.dataset.edit](button));
    for (const [key, edit] of Object.entries({ "remove": "remove-layers", "earlier": "move-down", "later": "move-up", "out-of-group": "out-of-group", "duplicate": "duplicate-layers", "group": "group-layers" })) {
      this.bench.keys.bind(key, () => { deeds[edit](this.column); });
    }
  }

  /** The layers that are meant: several cards that are chosen, or the layer that is when the turn has come. @returns {(string | symbol)[]} */
  #meant() {
    const { chosen } = this.bench.strip;
    return chosen.length > 1 ? chosen : [CHOSEN];
  }

  #bindKeys() {
    const { keys } = this.bench;
    keys.bind("next-leaf", () => {
      const leaves = all(this.column, "[data-leaf]", HTMLElement).map((tab) => tab.dataset.leaf ?? "");
      if (leaves.length) this.open(leaves[(leaves.indexOf(this.#leaf) + 1) % leaves.length]);
    });
    keys.bind("rename", () => {
      const name = maybe(this.column, ".layer-name", HTMLInputElement);
      name?.focus();
      name?.select();
    });
  }

  /** Copy the settings, as they are when all that was asked before has been answered. */
  async #copy() {
    await this.bench.session.settled;
    const { kind = "", settings = "{}" } = this.#section.dataset;
    keep(COPIED, { kind, settings: JSON.parse(settings) });
    say(`The settings of ‘${this.bench.session.state.target.name}’ are copied. Choose another ${this.#section.dataset.title} layer and paste them there with the sign beside Blend.`);
  }

  /** Paste the settings that were copied. */
  async #paste() {
    await this.bench.session.settled;
    const { kind, settings } = recall(COPIED, { kind: "", settings: {} });
    const { kind: here, title } = this.#section.dataset;
    if (!kind) say("No settings were copied. Nothing was changed.");
    else if (kind === here) this.bench.session.set("settings", settings);
    else say(`The settings that were copied are of another kind and do not fit ${title}. Nothing was changed.`);
  }
}
