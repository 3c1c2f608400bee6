/**
 * Comparing: the picture on one side of a hairline and something else on the other, side by side, or in its place while a
 * key is held. What may be shown is kept at hand while nothing happens, so that the eye does not forget: then neither
 * the hairline nor a flick asks the server for anything. Comparing edits nothing.
 */

import { all, clamp, find, make } from "../core/dom.js";
import { post, postQuietly, Refusal } from "../core/server.js";
import { FRAME } from "../core/session.js";
import { keep, recall } from "../core/store.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {import("./pane.js").Pane} Pane
 * @typedef {{ kind: string, number?: number, layers?: string[] }} Side
 * @typedef {"split" | "before" | "without"} Held what is shown while a key is held
 */

const KEPT = "glyptic-split";
const FORMS = ["upright", "level", "beside"];
/** Views that the other side is shown in too; in any other it is shown finished. */
const SAME_VIEW = new Set(["tone", "clipping", "unframed"]);
const REMEMBERED = 200;
/** Rests after which the other side is brought: one that stays as it is, and one that is made of the current state. */
const [REST, LONG] = [300, 1500];
const [STEP, FAR] = [0.01, 0.1];
const BEFORE = { kind: "before" };
/** Sides that are made of the current state. */
const OF_THE_STATE = new Set(["without", "upto"]);

export class Comparing {
  /** What stands on the other side: a choice of the list, with what belongs to it. @type {{ kind: string, number: number, name: string }} */
  #other = { kind: "before", number: 0, name: "" };
  #kept = recall(KEPT, { form: "upright", swapped: false });
  #at = 0.5;
  /** @type {Held | ""} */
  #held = "";
  /** Keys of the other side, by state, side and what was looked at. @type {Map<string, any>} */
  #keysOf = new Map();
  /** What each pane shows, as it was asked for. @type {Map<string, string>} */
  #shown = new Map();
  #asked = 0;
  /** What was drawn last: most edits change nothing of it. */
  #drawn = "";
  /** Whether the hairline is in the hand. */
  dragging = false;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { stage, showing, session, canvas } = bench;
    this.line = find(stage, "#hairline", HTMLElement);
    this.bar = find(stage, "#compare", HTMLElement);
    this.list = find(this.bar, "select", HTMLSelectElement);
    this.names = { other: find(stage, "#side-other", HTMLElement), now: find(stage, "#side-now", HTMLElement) };
    this.scale = find(stage, "#change-scale", HTMLElement);
    this.#bindSplit();
    this.#bindHeld();
    showing.addEventListener("view", () => this.#draw());
    session.addEventListener("state", () => this.#draw());
    canvas.addEventListener("moved", () => this.#bringSoon());
    showing.whenIdle(REST, (current) => this.#keepAtHand(false, current));
    showing.whenIdle(LONG, (current) => this.#keepAtHand(true, current));
    this.#draw();
  }

  get #isSplit() { return this.bench.showing.view === "split"; }

  /** What is shown while a key is held, or ''. */
  get held() { return this.#held; }

  /** Layers that are chosen and can be left out. */
  get #chosen() {
    const { session, strip } = this.bench;
    return (strip?.chosen ?? [session.chosen]).filter((id) => id !== FRAME && id !== session.state.base);
  }

  /** @param {string} name @returns {Side} */
  #sideOf(name) {
    if (name === "before") return BEFORE;
    if (name === "without") return { kind: "without", layers: this.#chosen };
    const { kind, number } = this.#other;
    if (kind === "without") return { kind, layers: this.#chosen };
    if (kind === "upto") return { kind, layers: this.#chosen.slice(0, 1) };
    return kind === "before" ? BEFORE : { kind, number };
  }

  /** What a map of change compares with, null for the base. */
  get against() { return this.#other.kind === "before" ? null : this.#sideOf("split"); }

  /** @param {string} name */
  #words(name) {
    const { kind, name: called } = name === "split" ? this.#other : { kind: name, name: "" };
    const cards = this.#chosen.length;
    const chosen = cards === 1 ? `‘${this.bench.session.state.target.name}’` : `${cards} cards`;
    return { before: "before", proof: `proof ‘${called}’`, step: `step: ${called}`, without: `without ${chosen}`, upto: `up to ${chosen}` }[kind] ?? "";
  }

  #bindSplit() {
    const { events, keys, showing } = this.bench;
    keys.bind("split", () => showing.setView(this.#isSplit ? "finished" : "split"));
    keys.bind("swap-sides", () => this.#swap());
    events.on("click", "#compare [data-form]", (_, button) => this.#form(button.dataset.form));
    events.on("click", "#compare [data-swap]", () => this.#swap());
    events.on("change", "#compare select", () => this.#choose(this.list.value, 0, ""));
    events.on("click", "#change-scale [data-measure]", (_, button) => showing.setView(button.dataset.measure));
    events.drag("#hairline", (event) => this.#drag(event));
    keys.bind("hairline-step", (event) => this.#step(event));
  }

  #bindHeld() {
    const { events, keys } = this.bench;
    for (const name of /** @type {Held[]} */ (["before", "without", "split"])) {
      keys.bind(name === "split" ? "flick" : name, () => this.#hold(name), () => this.#letGo());
    }
    events.drag("#compare [data-flick]", () => {
      this.#hold("split");
      return { move: () => {}, end: () => this.#letGo(), giveUp: () => this.#letGo() };
    });
  }

  /** Compare with something, in Split; or in the view that is on, where that compares too. @param {string} choice a choice of the list, or proof or step @param {number} number @param {string} name @param {string} [view] */
  compareWith(choice, number, name, view = "split") {
    this.#choose(choice, number, name);
    this.bench.showing.setView(view);
  }

  /** @param {string} choice @param {number} number @param {string} name */
  #choose(choice, number, name) {
    const [kind, of] = choice.split(" ");
    const { proofs } = this.bench.session.state;
    this.#other = of ? { kind, number: Number(of), name: proofs[of] ?? "" } : { kind, number, name };
    this.#draw();
  }

  /** @param {string} form */
  #form(form) {
    this.#kept.form = form;
    keep(KEPT, this.#kept);
    this.#draw();
  }

  #swap() {
    if (!this.#isSplit) return false;
    this.#kept.swapped = !this.#kept.swapped;
    keep(KEPT, this.#kept);
    return this.#draw();
  }

  /** @param {PointerEvent} event */
  #drag(event) {
    const box = this.bench.stage.getBoundingClientRect();
    const isLevel = this.#kept.form === "level";
    const at = (/** @type {PointerEvent} */ { clientX, clientY }) => (isLevel ? (clientY - box.top) / box.height : (clientX - box.left) / box.width);
    const off = this.#at - at(event);
    const before = this.#at;
    const end = () => { this.dragging = false; };
    this.dragging = true;
    this.line.focus({ preventScroll: true });
    return {
      move: (/** @type {PointerEvent} */ moved) => this.#put(at(moved) + off),
      end,
      giveUp: () => {
        end();
        this.#put(before);
      },
    };
  }

  /** @param {KeyboardEvent} event */
  #step(event) {
    const by = (event.shiftKey ? FAR : STEP) * (["ArrowRight", "ArrowDown"].includes(event.key) ? 1 : -1);
    this.#put(this.#at + by);
  }

  /** Lay the hairline: nothing is drawn anew, the other side is only cut off elsewhere. @param {number} at share of the stage */
  #put(at) {
    this.#at = clamp(at, 0, 1);
    const { form, swapped } = this.#kept;
    const share = `${(form === "beside" ? 0.5 : this.#at) * 100}%`;
    const rest = `calc(100% - ${share})`;
    const isLevel = form === "level";
    this.line.style.setProperty("--at", share);
    this.line.setAttribute("aria-valuenow", String(Math.round(this.#at * 100)));
    const other = this.bench.canvas.otherElement;
    const cut = { upright: swapped ? `0 0 0 ${share}` : `0 ${rest} 0 0`, level: swapped ? `${share} 0 0 0` : `0 0 ${rest} 0` }[form];
    other.style.clipPath = this.#isSplit && !this.#held && cut ? `inset(${cut})` : "none";
    for (const [name, isFirst] of /** @type {[HTMLElement, boolean][]} */ ([[this.names.other, !swapped], [this.names.now, swapped]])) {
      name.style.setProperty("--at", share);
      name.dataset.side = isFirst ? (isLevel ? "above" : "left") : isLevel ? "below" : "right";
    }
  }

  /** The hairline, the names of the sides, the bar: as the view and the state have them. */
  #draw() {
    const { canvas, stage, showing, session } = this.bench;
    if (!FORMS.includes(this.#kept.form)) [this.#kept.form] = FORMS;
    const drawn = JSON.stringify([showing.view, this.#kept, this.#other, this.#held, this.#chosen, session.state.target.name, session.state.proofs]);
    if (drawn === this.#drawn) return void this.#bringSoon();
    this.#drawn = drawn;
    const { form, swapped } = this.#kept;
    const isSplit = this.#isSplit;
    const before = JSON.stringify(showing.against);
    showing.against = this.against;
    if (before !== JSON.stringify(showing.against) && showing.view.startsWith("change")) showing.refresh();
    stage.dataset.split = isSplit ? form : "";
    stage.dataset.swapped = swapped ? "yes" : "";
    this.line.hidden = !isSplit;
    this.line.setAttribute("aria-orientation", form === "level" ? "vertical" : "horizontal");
    this.bar.hidden = !isSplit && !showing.view.startsWith("change");
    this.#fillList();
    for (const button of all(this.bar, "[data-form]", HTMLElement)) button.setAttribute("aria-checked", String(button.dataset.form === form));
    for (const button of all(this.bar, "[data-form], [data-swap], [data-flick]", HTMLElement)) button.hidden = !isSplit;
    this.scale.hidden = !showing.view.startsWith("change");
    for (const part of all(this.scale, "[data-measure]", HTMLElement)) part.setAttribute("aria-checked", String(part.dataset.measure === showing.view));
    for (const part of all(this.scale, "[data-scale]", SVGElement)) part.toggleAttribute("hidden", part.dataset.scale !== showing.view);
    if (!this.#held) canvas.face(isSplit ? canvas.pane("split") : null, isSplit && form === "beside", !swapped);
    this.#name(this.#held || "split", isSplit || this.#held !== "");
    this.#put(this.#at);
    this.#bringSoon();
  }

  /** @param {string} name @param {boolean} isShown */
  #name(name, isShown) {
    this.names.other.hidden = !isShown;
    this.names.other.textContent = this.#words(name);
    this.names.now.hidden = !isShown || this.#held !== "";
  }

  /** What can stand on the other side. */
  #fillList() {
    const { proofs } = this.bench.session.state;
    const { kind, number } = this.#other;
    const now = kind === "proof" ? `proof ${number}` : kind;
    const choices = [["before", "before"], ["without", "without the chosen cards"], ["upto", "up to the chosen card"], ...Object.entries(proofs).map(([id, name]) => [`proof ${id}`, `proof ‘${name}’`])];
    if (kind === "step") choices.push(["step", this.#words("split")]);
    const made = choices.map(([value, words]) => make("option", { value, textContent: words, selected: value === now }));
    if (document.activeElement !== this.list || made.length !== this.list.length) this.list.replaceChildren(...made);
    this.list.value = now;
  }

  /** What the other side is looked at by. */
  get #looking() {
    const { showing } = this.bench;
    const { looking } = showing;
    return { ...looking, layer: this.bench.session.state.base, view: SAME_VIEW.has(showing.view) ? showing.view : "finished" };
  }

  /** What a pane is to show, in words that stay the same until that changes: what is kept does not depend on the state.
   * @param {string} name @param {any} looking */
  #mark(name, looking) {
    const { state } = this.bench.session;
    const side = this.#sideOf(name);
    return JSON.stringify([OF_THE_STATE.has(side.kind) ? state.root : state.frame, side, looking]);
  }

  /** Whether a pane shows what it should. @param {string} name */
  #isAtHand(name) { return this.#shown.get(name) === this.#mark(name, this.#looking); }

  /** @param {string} name @param {any} looking @param {string} mark @param {typeof post} ask */
  async #keys(name, looking, mark, ask) {
    const known = this.#keysOf.get(mark);
    if (known) return known;
    const { session } = this.bench;
    const { keys, revision } = await ask(`${session.url}keys`, { looking: { ...looking, soon: ask === postQuietly }, side: this.#sideOf(name) });
    if (revision !== session.state.revision) return null;
    this.#keysOf.set(mark, keys);
    if (this.#keysOf.size > REMEMBERED) this.#keysOf.delete(this.#keysOf.keys().next().value ?? "");
    return keys;
  }

  /** Have a pane show what it should; `current` says whether that is still wanted, where nobody waits for it. @param {string} name @param {() => boolean} [current] */
  async #bring(name, current) {
    const { canvas } = this.bench;
    if (!canvas.ready || this.#isAtHand(name)) return;
    const looking = this.#looking;
    const mark = this.#mark(name, looking);
    try {
      const keys = await this.#keys(name, looking, mark, current ? postQuietly : post);
      if (!keys) return;
      if (current) await canvas.prepare(keys, looking.level, current);
      if ((current && !current()) || mark !== this.#mark(name, this.#looking)) return;
      const pane = canvas.layPane(name);
      await pane.show(keys, looking.level);
      if (pane.shows(keys, looking.level)) this.#shown.set(name, mark);
    } catch (error) {
      if (error instanceof Refusal && error.status === 404) this.#choose("before", 0, "");
      else if (!(error instanceof Refusal)) throw error;
    }
  }

  /** What is on screen now, after all that moves in this moment. */
  async #bringSoon() {
    const number = (this.#asked += 1);
    await Promise.resolve();
    if (number === this.#asked && (this.#isSplit || this.#held)) await this.#bring(this.#held || "split");
  }

  /** While nothing happens, bring what a key may show; what is made of the current state only after a long rest, for it is
   * worked out anew after every change. @param {boolean} late @param {() => boolean} current */
  async #keepAtHand(late, current) {
    for (const name of ["split", "before", "without"]) {
      const side = this.#sideOf(name);
      if (OF_THE_STATE.has(side.kind) !== late || (late && !side.layers?.length)) continue;
      if (!current()) return;
      await this.#bring(name, current);
    }
  }

  /** Show something in the picture's place until it is let go. @param {Held} name */
  #hold(name) {
    if (name === "without" && !this.#chosen.length) return false;
    const held = name === "split" && this.#other.kind === "before" ? "before" : name;
    this.#held = held;
    this.#tell();
    if (this.#isAtHand(held)) this.#flick(held);
    else this.#bring(held).then(() => { if (this.#held === held) this.#flick(held); });
    return true;
  }

  /** @param {Held} held */
  #flick(held) {
    const { canvas } = this.bench;
    canvas.flash(canvas.layPane(held));
    this.#put(this.#at);
    this.#name(held, true);
  }

  #letGo() {
    if (!this.#held) return;
    this.#held = "";
    this.#drawn = "";
    this.#draw();
    this.#tell();
  }

  #tell() { this.bench.showing.dispatchEvent(new Event("held")); }
}
