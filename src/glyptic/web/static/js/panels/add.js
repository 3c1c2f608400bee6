/** The Add sheet: every kind shown on this plate, searched by typing, tried on the picture before it is added. */

import { all, find, make } from "../core/dom.js";
import { say } from "../core/says.js";
import { formOf, get, getHtml, postForm } from "../core/server.js";
import { CHOSEN } from "../core/session.js";
import { keep, recall } from "../core/store.js";
import { Copies } from "../strip/copies.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const USED = "glyptic-used";
const MOST_USED = 3;
/** Kits that are shown before the others are asked for. */
const FIRST_KITS = 6;
const PATIENCE = 110;
const PICTURES = /^image\//;

/** Whether a pointer comes from outside an entry, or goes there. @param {MouseEvent} event @param {HTMLElement} entry */
const enters = (event, entry) => !(event.relatedTarget instanceof Node && entry.contains(event.relatedTarget));
/** @param {DragEvent} event */
const carriesFiles = (event) => event.dataTransfer?.types.includes("Files") ?? false;

/** @param {any} plate @param {boolean} finished @param {string} words */
const take = (plate, finished, words) => make("button", { type: "button", className: "quiet-button", textContent: words, "data-take-plate": plate.id, "data-finished": finished ? "yes" : "", "aria-label": `${plate.name}, ${words}` });

export class Add {
  #start = "open";
  /** Where it goes while a group is chosen: into it, or after it. */
  #place = "inside";
  #timer = 0;
  #tried = false;
  /** Whether the contrary is added without a key. */
  #turns = false;
  /** What is tried. @type {HTMLElement | null} */
  #over = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.copies = new Copies(bench);
    this.sheet = find(bench.root, "#add", HTMLElement);
    this.says = find(this.sheet, "#add-says", HTMLElement);
    this.search = find(this.sheet, "#add-search", HTMLInputElement);
    this.trying = find(bench.stage, "#trying", HTMLElement);
    this.picker = find(this.sheet, "#add-picture", HTMLInputElement);
    this.hint = this.says.textContent;
    this.#bindSheet();
    this.#bindTrying();
    this.#bindPictures();
    bench.panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "add") this.#open(); });
    bench.panels.addEventListener("closed", (event) => { if (/** @type {CustomEvent} */ (event).detail === "add") this.#letGo(); });
  }

  #bindSheet() {
    const { events, keys } = this.bench;
    events.on("click", "#add [data-add]", (event, entry) => this.#add(entry, event));
    events.on("click", "#add-turned", () => this.#turn(!this.#turns));
    events.on("click", "#add [data-start]", (_, { dataset }) => {
      this.#start = dataset.start;
      this.#check("start", dataset.start);
    });
    events.on("click", "#add [data-place]", (_, { dataset }) => {
      this.#place = dataset.place;
      this.#check("place", dataset.place);
    });
    events.on("input", "#add-search", () => this.#filter());
    events.on("click", "[data-all-kits]", (_, button) => this.#unfold(button.ariaExpanded !== "true"));
    events.on("click", "#add [data-take-plate]", (_, { dataset }) => this.#takePlate(dataset));
    keys.bind("add-beside", () => {
      this.bench.panels.open("add");
      this.#place = "after";
      this.#check("place", "after");
    });
    keys.bind("add-step", (event) => this.#step(event));
    keys.bind("add-best", () => this.#addBest());
  }

  /** @param {string} what @param {string} value */
  #check(what, value) {
    for (const button of all(this.sheet, `[data-${what}]`, HTMLElement)) {
      const isChosen = button.dataset[what] === value;
      button.setAttribute("aria-checked", String(isChosen));
      button.tabIndex = isChosen ? 0 : -1;
    }
  }

  /** @param {boolean} turns */
  #turn(turns) {
    this.#turns = turns;
    find(this.sheet, "#add-turned", HTMLElement).setAttribute("aria-pressed", String(turns));
  }

  #bindTrying() {
    const { events } = this.bench;
    events.on("pointerover", "[data-add]", (event, entry) => { if (enters(event, entry)) this.#tryOn(entry, event.altKey); });
    events.on("pointerout", "[data-add]", (event, entry) => { if (enters(event, entry)) this.#letGo(); });
    events.on("focusin", "[data-add]", (_, entry) => { if (entry.matches(":focus-visible")) this.#tryOn(entry); });
    events.on("focusout", "[data-add]", () => this.#letGo());
    for (const name of ["keydown", "keyup"]) document.addEventListener(name, (event) => this.#turned(/** @type {KeyboardEvent} */ (event)));
  }

  /** Alt is pressed or let go over an entry: it is tried the other way. @param {KeyboardEvent} event */
  #turned(event) {
    if (event.key !== "Alt" || !this.#over || event.repeat) return;
    event.preventDefault();
    this.#tryOn(this.#over, event.type === "keydown");
  }

  /** @param {HTMLElement} [within] */
  #entries(within = this.sheet) { return all(within, "[data-add]", HTMLElement); }

  get #seen() { return this.#entries().filter((entry) => entry.offsetParent !== null); }

  #usedLast() {
    const recent = find(this.sheet, "#add-recent", HTMLElement);
    const copies = recall(USED, /** @type {string[]} */ ([])).filter((name) => !name.startsWith("kit ")).slice(0, MOST_USED).map((name) => this.#entries().find((entry) => entry.dataset.add === name && !recent.contains(entry))).filter((entry) => entry !== undefined);
    find(recent, ".entries", HTMLElement).replaceChildren(...copies.map((entry) => entry.cloneNode(true)));
    recent.hidden = copies.length === 0;
  }

  /** @param {string} kind */
  #remember(kind) { keep(USED, [kind, ...recall(USED, /** @type {string[]} */ ([])).filter((name) => name !== kind)]); }

  #filter() {
    const words = this.search.value.toLowerCase().split(/\s+/).filter(Boolean);
    if (words.length) this.#unfold(true);
    for (const entry of this.#entries()) {
      const text = `${entry.textContent} ${entry.dataset.says} ${entry.dataset.add}`.toLowerCase();
      entry.hidden = !words.every((word) => text.includes(word));
    }
    for (const section of all(this.sheet, "section:not(#add-plates)", HTMLElement)) {
      const isRecent = section.id === "add-recent";
      section.hidden = this.#entries(section).every((entry) => entry.hidden) || (isRecent && words.length > 0);
    }
    find(this.sheet, "#add-none", HTMLElement).hidden = this.#seen.length > 0;
  }

  /** When the sheet opens: previews of the plate as it is now, the search empty and ready, the switch as it starts. */
  #open() {
    const { session } = this.bench;
    const isGroup = session.state.target.kind === "group";
    this.#start = "open";
    this.#place = "inside";
    this.#turn(false);
    this.#check("start", "open");
    this.#check("place", "inside");
    find(this.sheet, "#add-place", HTMLElement).hidden = !isGroup;
    this.#usedLast();
    this.#showKits();
    find(this.sheet, "#add-plates", HTMLElement).hidden = true;
    this.search.value = "";
    this.#filter();
    const query = new URLSearchParams({ root: session.state.root, made: session.madeBy, after: session.chosen });
    for (const image of all(this.sheet, "[data-preview]", HTMLImageElement)) {
      const source = `${session.url}previews/${image.dataset.preview}.jpg?${query}`;
      if (image.getAttribute("src") !== source) image.src = source;
    }
    this.search.focus();
  }

  /** The kits as they are now, each on this plate as it is now. */
  async #showKits() {
    const section = find(this.sheet, "#add-kits", HTMLElement);
    const row = find(section, ".entries", HTMLElement);
    try {
      row.innerHTML = await getHtml(`${this.bench.session.url}kits`);
    } catch (error) {
      this.bench.session.complain(error);
    }
    const kits = this.#entries(section);
    const used = recall(USED, /** @type {string[]} */ ([])).flatMap((name) => kits.filter(({ dataset }) => name === `kit ${dataset.kit}`));
    row.prepend(...used);
    find(section, "[data-all-kits]", HTMLElement).hidden = kits.length <= FIRST_KITS;
    this.#unfold(false);
    this.#filter();
  }

  /** Every kit, or those used last and the first by name. @param {boolean} unfolded */
  #unfold(unfolded) {
    const section = find(this.sheet, "#add-kits", HTMLElement);
    section.classList.toggle("all", unfolded);
    const button = find(section, "[data-all-kits]", HTMLElement);
    button.textContent = unfolded ? "fewer" : `all ${this.#entries(section).length}`;
    button.setAttribute("aria-expanded", String(unfolded));
  }

  #letGo() {
    clearTimeout(this.#timer);
    this.#over = null;
    this.says.textContent = this.hint;
    this.trying.hidden = true;
    if (this.#tried) this.bench.showing.giveUpDraft();
    this.#tried = false;
  }

  /** Where a new layer goes: beside the chosen one, or into the group that is chosen. */
  get #where() { return { after: CHOSEN, beside: this.#place === "after" }; }

  /** What an entry is tried by: an edit with its arguments, and its name; null for one that cannot be tried. @param {HTMLElement} entry @param {boolean} turned */
  #trial({ dataset }, turned) {
    if (dataset.kit) return { edit: "add-kit", args: { kit: Number(dataset.kit), opposite: turned && dataset.turns === "yes" }, name: dataset.kitName };
    const layer = JSON.parse((turned && dataset.turned) || dataset.sample || "{}");
    if (!layer.kind) return null;
    return { edit: "add-layer", args: { layer, after: this.bench.session.chosen, beside: this.#place === "after" }, name: layer.name };
  }

  /** @param {HTMLElement} entry @param {boolean} [held] whether the key for the contrary is */
  #tryOn(entry, held = false) {
    clearTimeout(this.#timer);
    const turned = held || this.#turns;
    const trial = this.#trial(entry, turned);
    if (!trial) this.#letGo();
    this.says.textContent = entry.dataset.says ?? "";
    if (!trial) return;
    this.#over = entry;
    const turns = turned && (entry.dataset.turned || entry.dataset.turns === "yes");
    this.#timer = setTimeout(() => {
      this.#tried = true;
      this.trying.textContent = `Trying ${trial.name}${turns ? ", turned over" : ""}`;
      this.trying.hidden = false;
      this.bench.showing.draft(trial.edit, trial.args);
    }, PATIENCE);
  }

  /** Add what is pressed: closed with Shift, doing the contrary with Alt. @param {HTMLElement} entry @param {{ shiftKey?: boolean, altKey?: boolean }} [held] */
  async #add({ dataset }, held = {}) {
    const kind = dataset.add ?? "";
    const where = this.#where;
    const start = held.shiftKey ? "closed" : this.#start;
    const turned = this.#turns || Boolean(held.altKey);
    if (kind === "plate") {
      this.#listPlates();
      return;
    }
    clearTimeout(this.#timer);
    this.#tried = false;
    this.bench.panels.close();
    if (kind === "picture") {
      this.picker.click();
      return;
    }
    const { brush, session, waiting } = this.bench;
    if (kind === "kit") {
      const closed = start === "closed";
      this.#remember(`kit ${dataset.kit}`);
      await waiting.during(`Adding ${dataset.kitName} …`, (signal) => session.ask("edits", { edit: "add-kit", arguments: { kit: Number(dataset.kit), closed, opposite: turned && dataset.turns === "yes" } }, { signal }));
      if (closed) brush.take("paint");
      return;
    }
    this.#remember(kind);
    if (kind === "merged") {
      await waiting.during("Merging everything below …", (signal) => session.ask("merge", { after: CHOSEN }, { signal }));
      return;
    }
    await session.ask("layers", { kind, start, turned, ...where });
    if (held.shiftKey) brush.take("paint");
  }

  /** The other plates, each to be taken as it was opened or as it is finished. */
  async #listPlates() {
    const section = find(this.sheet, "#add-plates", HTMLElement);
    const { plates } = await get(`${this.bench.session.url}others`);
    const lines = plates.map((/** @type {any} */ plate) => make("li", {}, make("img", { src: plate.picture, alt: "", width: 60, height: 42 }), make("span", { textContent: `${plate.name}, ${plate.size.join(" × ")}` }), take(plate, false, "as opened"), take(plate, true, "finished")));
    find(section, "ul", HTMLElement).replaceChildren(...lines);
    find(section, "p", HTMLElement).hidden = plates.length > 0;
    section.hidden = false;
    section.scrollIntoView({ block: "nearest" });
    all(section, "button", HTMLElement)[0]?.focus();
  }

  /** @param {DOMStringMap} dataset */
  async #takePlate({ takePlate, finished }) {
    const { session, waiting } = this.bench;
    const where = this.#where;
    const start = this.#start;
    this.bench.panels.close();
    await waiting.during("Taking the plate's picture …", (signal) => session.ask("from-plate", { plate: Number(takePlate), finished: finished === "yes", start, ...where }, { signal }));
  }

  #addBest() {
    const typed = this.search.value.trim().toLowerCase();
    const best = this.#seen.find((entry) => find(entry, "b", HTMLElement).textContent?.toLowerCase().startsWith(typed)) ?? this.#seen[0];
    if (best) this.#add(best);
  }

  /** @param {KeyboardEvent} event */
  #step(event) {
    const step = ["ArrowDown", "ArrowRight"].includes(event.key) ? 1 : -1;
    const seen = this.#seen;
    const at = seen.findIndex((entry) => entry === document.activeElement);
    if (event.target === this.search && event.key !== "ArrowDown") return false;
    if (event.target instanceof Element && event.target.matches("[role=radio]")) return false;
    return (at + step < 0 ? this.search : seen[Math.min(at + step, seen.length - 1)])?.focus();
  }

  #bindPictures() {
    const { events } = this.bench;
    events.on("change", "#add-picture", (_, input) => {
      const files = [...input.files];
      input.value = "";
      this.#addPictures(files);
    });
    events.on("dragover", "#bench", (event) => {
      if (!carriesFiles(event)) return false;
      event.preventDefault();
      event.dataTransfer.dropEffect = "copy";
      return true;
    });
    events.on("drop", "#bench", (event) => {
      if (!carriesFiles(event)) return false;
      event.preventDefault();
      return this.#addPictures([...event.dataTransfer.files]);
    });
    document.addEventListener("paste", (event) => this.#pasted(event));
  }

  /** A picture is pasted as a layer; so are layers that were copied, on this plate or another. @param {ClipboardEvent} event */
  #pasted(event) {
    if (event.target instanceof Element && event.target.closest("input:not([type=range]), textarea")) return;
    const files = [...event.clipboardData?.files ?? []];
    if (files.length) this.#addPictures(files);
    else if (!this.copies.paste()) say("There is nothing to paste: no picture in the clipboard, and no layers were copied.");
    event.preventDefault();
  }

  /** Lay pictures over the plate, one after the other. @param {File[]} files */
  async #addPictures(files) {
    for (const file of files) {
      if (file.type && !PICTURES.test(file.type)) say(`${file.name || "The file"} is no picture. Nothing was changed.`);
      else await this.#addPicture(file);
    }
  }

  /** @param {File} file */
  async #addPicture(file) {
    const { session, showing, waiting } = this.bench;
    const { looking } = showing;
    const name = file.name || "the picture";
    await session.settled;
    const form = formOf("picture", [file], { revision: session.state.revision, after: session.chosen, beside: this.#place === "after", start: this.#start, looking });
    try {
      session.adopt(await waiting.during(`Reading ${name} …`, (signal) => postForm(`${session.url}pictures`, form, undefined, signal)), looking);
      this.#remember("picture");
      say(`${name} lies over the picture; set its place on the desk.`);
    } catch (error) {
      session.complain(error);
    }
  }
}
