/** What is found wrong with a mask, gaps, specks and halos: traced along their path in the picture, listed, mended. */

import { drawn, find, make, maybe } from "../core/dom.js";
import { post } from "../core/server.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ kind: string, rect: number[], pixels: number, at: number[], path: number[][][] }} Finding
 * @typedef {"gaps" | "halos"} Search
 */

/** @type {Record<string, [string, string]>} */
const WORDS = { gap: ["gap", "Close"], spill: ["speck", "Drop"], over: ["bleeds over", ""], short: ["falls short", ""] };
/** @type {Record<string, string>} */
const ALL = { gap: "Close all", spill: "Drop all" };
/** How much of the stage a place that is zoomed to takes up, and how far at most it is zoomed. */
const TAKES = 0.3;
const LARGEST = 4;
const MOST_LISTED = 40;

export class Findings {
  /** @type {Finding[]} */
  #found = [];
  /** @type {{ layer: string, across: number, search: Search | "", revision: number }} */
  #asked = { layer: "", across: 0, search: "", revision: 0 };
  #chosen = -1;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.marks = bench.layerOf("marks");
    const { events, session, canvas } = bench;
    events.on("click", "#desk [data-find]", (_, button) => this.#look(button.dataset.find, this.#size("#gap-size")));
    events.on("click", "#fault-list [data-found]", (_, button) => this.#zoomTo(Number(button.dataset.found)));
    events.on("click", "#fault-list [data-mend-kind]", (_, { dataset }) => this.#mend(dataset.mendKind, dataset.at ? JSON.parse(dataset.at) : null));
    events.on("click", "#fault-list [data-again]", () => { if (this.#asked.search) this.#look(this.#asked.search, this.#asked.across); });
    events.on("click", "#fault-list [data-away]", () => this.#forget());
    events.on("click", "#desk [data-snap]", () => bench.waiting.during("Looking for edges …", (signal) => session.ask("areas/snap", { layer: session.chosen, width: this.#size("#snap-width") }, { signal })));
    canvas.addEventListener("moved", () => this.#draw());
    session.addEventListener("state", (event) => {
      if (this.#asked.layer && /** @type {CustomEvent} */ (event).detail.before.chosen !== session.chosen) this.#forget();
      else this.#list();
    });
  }

  /** @param {string} selector */
  #size(selector) { return Number(find(this.bench.root, selector, HTMLInputElement).value); }

  /** @param {number[][]} line */
  #line(line) {
    const places = line.map(([x, y]) => this.bench.canvas.onStage(x, y)).map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`);
    return places.length > 1 ? `M${places.join("L")}` : `M${places[0]}h0.1`;
  }

  /** Trace what was found, the chosen one strongly: a dark line under a light one, so that both are seen on any ground. */
  #draw() {
    this.marks.replaceChildren(...this.#found.flatMap((finding, i) => {
      const d = finding.path.map((line) => this.#line(line)).join("");
      const state = `fault ${finding.kind}${i === this.#chosen ? " chosen" : ""}`;
      return [drawn("path", { class: `${state} under`, d }), drawn("path", { class: state, d })];
    }));
  }

  /** @param {string} text @param {Record<string, unknown>} properties */
  #button(text, properties) { return make("button", { type: "button", className: "quiet-button", textContent: text, ...properties }); }

  /** @param {Finding} finding @param {number} i */
  #row({ kind, rect, pixels, at }, i) {
    const [what, deed] = WORDS[kind];
    const size = kind in ALL ? `${Math.max(rect[2], rect[3])} px` : `${pixels} px along`;
    const item = make("li", {}, make("button", { type: "button", className: "word", textContent: `${what}, ${size}`, title: "Zoom to it", "data-found": i }));
    if (deed) item.append(this.#button(deed, { "data-mend-kind": kind, "data-at": JSON.stringify(at) }));
    return item;
  }

  #list() {
    const box = maybe(this.bench.root, "#fault-list", HTMLElement);
    const { search, revision } = this.#asked;
    if (!box) return;
    if (!search) {
      box.replaceChildren();
      return;
    }
    const count = (/** @type {string} */ kind) => this.#found.filter((finding) => finding.kind === kind).length;
    const all = Object.entries(ALL).filter(([kind]) => count(kind)).map(([kind, text]) => this.#button(`${text} ${count(kind)}`, { "data-mend-kind": kind }));
    const again = revision === this.bench.session.state.revision ? [] : [this.#button("Look again: the plate has changed since", { "data-again": "" })];
    const none = make("p", { className: "quiet", textContent: search === "halos" ? "The mask keeps to every strong edge it runs along." : "No gaps and no specks of that size." });
    const rows = make("ul", {}, ...this.#found.slice(0, MOST_LISTED).map((finding, i) => this.#row(finding, i)));
    box.replaceChildren(this.#found.length ? rows : none, make("p", { className: "deeds" }, ...again, ...all, this.#button("Put away", { "data-away": "" })));
  }

  #forget() {
    this.#found = [];
    this.#chosen = -1;
    this.#asked = { layer: "", across: 0, search: "", revision: 0 };
    this.#list();
    this.#draw();
  }

  /** @param {number} i */
  #zoomTo(i) {
    const { canvas } = this.bench;
    const [x, y, w, h] = this.#found[i].rect;
    const { width, height } = canvas.place.screen;
    this.#chosen = i;
    const [across, down] = canvas.shown(x + w / 2, y + h / 2);
    canvas.showPlace(across, down, Math.min((Math.min(width, height) * TAKES) / Math.max(w, h, 1), LARGEST));
    this.#draw();
  }

  /** @param {string} kind @param {number[] | null} at */
  async #mend(kind, at) {
    const { session, waiting } = this.bench;
    const { layer, across, search } = this.#asked;
    const answer = await waiting.during("Mending …", (signal) => session.ask("areas/mend", { layer, across, kind, at }, { signal }));
    if (answer && search) this.#look(search, across);
  }

  /** @param {Search} search @param {number} across */
  async #look(search, across) {
    const { session, waiting } = this.bench;
    this.#asked = { layer: session.chosen, across, search, revision: session.state.revision };
    this.#chosen = -1;
    const words = search === "gaps" ? "Looking for gaps …" : "Looking along edges …";
    try {
      const { layer } = this.#asked;
      this.#found = (await waiting.during(words, (signal) => post(`${session.url}areas/${search}`, { layer, across }, signal))).places;
    } catch (error) {
      this.#forget();
      session.complain(error);
    }
    this.#list();
    this.#draw();
  }
}
