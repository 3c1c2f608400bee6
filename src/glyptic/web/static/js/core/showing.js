/** What is on screen of the plate: asked for, kept ahead of what may come, and shown live while something is dragged. */

import { SCREEN } from "../canvas/colours.js";
import { PRINTED } from "../canvas/printing.js";
import { begin, end, isDrawing } from "./busy.js";
import { say } from "./says.js";
import { post, postForFramed, postQuietly, Refusal } from "./server.js";
import { CHOSEN } from "./session.js";

/** @typedef {import("./bench.js").Bench} Bench */

const REST = 500;
const STILL = 250;
const REMEMBERED = 200;
const AGAIN = 1500;
/** Milliseconds of a frame above which, twice in a row, the next ones have fewer pixels, and below which they get them
 * back: by whole levels, of which what layers gather is there already; another has to be begun anew. */
const [SLOW, FAST] = [75, 25];
const [COARSEST, PACE] = [2, 1];

/** @param {Map<string, any>} map @param {string} key @param {unknown} value */
function remember(map, key, value) {
  map.delete(key);
  map.set(key, value);
  const [oldest] = map.keys();
  if (map.size > REMEMBERED) map.delete(oldest);
}

/** Resolves when what is drawn by now is on screen. */
const painted = () => new Promise((done) => { requestAnimationFrame(() => { setTimeout(done); }); });

/** The view that the frame is drawn on: the whole picture. */
export const UNFRAMED = "unframed";

export class Showing extends EventTarget {
  /** @type {{ edit: string, arguments: any, view: string } | null} */
  #newest = null;
  #busy = false;
  #opened = false;
  /** @type {Promise<void> | null} */
  #opening = null;
  #looks = 0;
  #pause = 0;
  #later = 0;
  #again = 0;
  #coarser = 0;
  #slow = 0;
  #exact = 0;
  #deepest;
  #space;
  #slowly;
  /** What is done while nothing happens, one after the other. @type {{ rest: number, work: (current: () => boolean) => Promise<void> }[]} */
  #idle = [];
  /** What a map of change compares with, null for the base. @type {any} */
  against = null;
  #keysOf = new Map();
  #leadsTo = new Map();

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.session = bench.session;
    this.canvas = bench.canvas;
    this.hatch = bench.hatch;
    this.view = "finished";
    this.#deepest = bench.declared.deepest;
    this.#space = bench.session.state.space;
    this.#slowly = new Set(bench.declared.slowly);
    this.canvas.addEventListener("moved", () => { if (!this.canvas.zooming) this.refresh(); });
    this.canvas.addEventListener("missed", () => this.#refreshLater());
    this.hatch.addEventListener("change", () => this.refresh());
    this.printing = bench.printing;
    this.printing.addEventListener("change", () => this.refresh());
    this.#lay();
  }

  /** The canvas is as large as what the view shows of the state. */
  #lay() {
    if (this.session.state.space !== this.#space) location.reload();
    const { whole, sheet, through, deepest } = this.session.state;
    if (this.view === UNFRAMED) this.canvas.lay(whole, this.#deepest, null);
    else this.canvas.lay(sheet, deepest, through);
  }

  get looking() { return this.#dressed(this.canvas.looking(this.view, this.session.chosen)); }

  /** What is looked at, with the hatch where it is drawn, and with what a map of change compares; in the colours of this screen. @param {any} asked */
  #dressed(asked) {
    const looking = { ...asked, screen: SCREEN };
    if (looking.view === PRINTED) return { ...looking, press: this.printing.values };
    if (looking.view === "mask-over") return { ...looking, hatch: this.hatch.values };
    return this.against && looking.view.startsWith("change") ? { ...looking, against: this.against } : looking;
  }

  /** Something else is looked at: the number of this look. */
  #look() {
    this.dispatchEvent(new Event("looked"));
    return (this.#looks += 1);
  }

  /** Ask for what is on screen now; only the newest question counts. */
  async refresh() {
    const number = this.#look();
    this.#overviewSoon();
    await Promise.resolve();
    if (number !== this.#looks || !this.canvas.ready || !this.#opened) return;
    const { looking, session } = this;
    try {
      const answer = await post(`${session.url}keys`, { looking });
      if (answer.revision === session.state.revision) this.#remember(looking, answer.keys);
      if (number === this.#looks) await this.canvas.show(answer.keys, looking.level);
      if (answer.revision !== session.state.revision && number === this.#looks && !session.asking) session.catchUp();
    } catch (error) {
      if (!(error instanceof Refusal) || error.status) session.complain(error);
      else this.#refreshLater();
    }
  }

  /** Whether a hand drags or draws: what it does not wait for can wait. */
  get handAtWork() { return this.#busy || isDrawing(); }

  /** A while after the last change, keep an overview of what could come into sight. */
  #overviewSoon() {
    clearTimeout(this.#pause);
    this.#pause = setTimeout(() => { if (this.handAtWork) this.#overviewSoon(); else this.#overview(); }, REST);
  }

  async #overview() {
    const looking = this.#dressed(this.canvas.overview(this.view, this.session.chosen));
    try {
      const { keys } = await post(`${this.session.url}keys`, { looking });
      await this.canvas.keepOverview(keys, looking);
      if (this.#opened) await this.#prepare();
    } catch { /* the next change asks again */ }
  }

  /** While nothing happens, fetch what may come into sight next. */
  async #prepare() {
    const number = this.#looks;
    const current = () => number === this.#looks && !this.handAtWork && !this.session.asking;
    await this.#refine(current);
    if (!current()) return;
    await post(`${this.session.url}keys`, { looking: this.looking, ready: true });
    if (!current()) return;
    const looking = this.#dressed(this.canvas.lookingSoon(this.view, this.session.chosen));
    const { keys } = await post(`${this.session.url}keys`, { looking });
    await this.canvas.prepare(keys, looking.level, current);
    await this.#rest(current);
  }

  /** What is dear is done after longer rests: it must not be in the hand's way. @param {() => boolean} current */
  async #rest(current) {
    for (const { rest, work } of this.#idle) {
      await new Promise((done) => {
        clearTimeout(this.#later);
        this.#later = setTimeout(done, rest);
      });
      if (!current()) return;
      await work(current);
    }
  }

  /** Do something whenever nothing has happened for a while more; it stops where `current` says that something does. @param {number} rest milliseconds @param {(current: () => boolean) => Promise<void>} work */
  whenIdle(rest, work) { this.#idle.push({ rest, work }); }

  /** Through a frame that turns, a picture that is zoomed out and stays still is made of a finer one. @param {() => boolean} current */
  async #refine(current) {
    const { frame } = this.session.state;
    const { looking } = this;
    if (!frame?.enabled || !frame.refines || !looking.level || this.view === UNFRAMED || !current()) return;
    const { keys } = await post(`${this.session.url}keys`, { looking: { ...looking, atRest: true } });
    await this.canvas.prepare(keys, looking.level, current);
    if (current() && this.canvas.has(keys)) await this.canvas.show(keys, looking.level);
  }

  /** Remember the keys of what was looked at in the current state: a plate is a value, they never change. @param {any} looking @param {any} keys */
  #remember(looking, keys) {
    remember(this.#keysOf, `${this.session.state.root} ${JSON.stringify(looking)}`, keys);
  }

  /** @param {string} path @param {any} body @param {string} root */
  #step(path, body, root) { return `${root} ${path} ${JSON.stringify(body)}`; }

  /** Show where an edit leads before it is kept: at once, where that state was on screen before; else it is tried, and
   * what comes back resolves when the edit can go its way, and `shown` when its pixels are on screen, or cannot be.
   * @param {string} path @param {any} body @returns {{ known: Promise<any>, shown: Promise<any> } | null} */
  ahead(path, body) {
    const { state } = this.session;
    const { looking } = this;
    const root = path === "undo" || path === "redo" ? state[path] : this.#leadsTo.get(this.#step(path, body, state.root));
    const keys = this.#keysOf.get(`${root} ${JSON.stringify(looking)}`);
    if (keys && this.canvas.has(keys)) this.canvas.show(keys, looking.level);
    else if (path === "edits" && !this.#slowly.has(body.edit) && this.#opened) return this.#try(body, looking);
    return null;
  }

  /** Show what an edit leads to: its keys are known long before all that is to be told of it. What is wrong with it is
   * told by its own answer. @param {any} body @param {any} looking */
  #try(body, looking) {
    const { session } = this;
    const number = this.#look();
    const known = postQuietly(`${session.url}tried`, { looking, revision: session.state.revision, ...body }).catch(() => null);
    const show = async () => {
      const found = await known;
      if (!found || number !== this.#looks) return;
      await this.canvas.show(found.keys, looking.level).catch(() => {});
      await painted();
    };
    return { known, shown: show() };
  }

  /** Remember where an edit led from a state; of a layer that is switched, the way back too. @param {string} path @param {any} body @param {string} from @param {string} to */
  leads(path, body, from, to) {
    remember(this.#leadsTo, this.#step(path, body, from), to);
    if (body.edit !== "show-layers" || body.arguments.layers.length !== 1) return;
    const back = { ...body, arguments: { ...body.arguments, visible: !body.arguments.visible } };
    remember(this.#leadsTo, this.#step(path, back, to), from);
  }

  /** An edit was answered, with the keys of what is on screen perhaps. @param {any} keys @param {any} looking */
  answered(keys, looking) {
    this.#lay();
    this.#overviewSoon();
    clearTimeout(this.#exact);
    const { chosen } = this.session.state;
    if (looking && keys.length) this.#remember({ ...looking, layer: chosen }, keys);
    if (looking && looking.view === this.view && looking.level === this.canvas.level && keys.length) {
      this.#look();
      this.canvas.show(keys, looking.level);
      if (JSON.stringify(looking.rect) !== JSON.stringify(this.looking.rect)) this.refresh();
    } else {
      this.refresh();
    }
  }

  /** Show the plate for the first time: the whole picture small, then what is on screen sharp. Resolves when it is. */
  open() {
    this.#opening ??= this.#open();
    return this.#opening;
  }

  async #open() {
    await this.#overview();
    this.#opened = true;
    await this.refresh();
  }

  /** What did not come is asked for again after a while, however much did not. */
  #refreshLater() {
    clearTimeout(this.#again);
    this.#again = setTimeout(() => this.refresh(), AGAIN);
  }

  /** @param {string} view */
  setView(view) {
    this.view = view;
    this.#lay();
    this.refresh();
    this.dispatchEvent(new Event("view"));
  }

  /** Let go of what is dragged, for an edit takes its place. */
  forgetDraft() {
    this.#newest = null;
    this.#look();
  }

  /** Show what an edit would do while it is dragged: the newest value only, one question at a time, after all edits that
   * were asked before. @param {string} edit @param {any} args @param {string} [view] */
  async draft(edit, args, view = this.view) {
    this.#newest = { edit, arguments: args, view };
    if (this.#busy) return;
    this.#busy = true;
    begin();
    while (this.#newest) {
      await this.session.settled;
      if (this.#newest) await this.#showDraft(this.#newest);
    }
    this.#busy = false;
    end();
  }

  /** @param {{ edit: string, arguments: any, view: string }} newest */
  async #showDraft({ view, ...asked }) {
    this.#newest = null;
    const { session } = this;
    const named = asked.arguments.layer === CHOSEN ? { ...asked, arguments: { ...asked.arguments, layer: session.chosen } } : asked;
    const looking = this.#dressed(this.canvas.lookingCoarser(view, session.chosen, this.#coarser));
    const started = performance.now();
    const number = this.#look();
    const current = () => number === this.#looks;
    this.canvas.giveUp();
    try {
      const { head, content } = await postForFramed(`${session.url}drafts`, { looking, ...named });
      if (!current()) return;
      this.dispatchEvent(new CustomEvent("draft", { detail: head }));
      await this.canvas.showQuick(content, head, current);
      this.#pace(performance.now() - started);
      this.#exactSoon(named, view, current);
    } catch (error) {
      this.#newest = null;
      if (error instanceof Refusal && !error.status) say(error.message);
    }
  }

  /** When the hand holds still in a drag, the exact pixels take the place of the quick ones. @param {any} body @param {string} view @param {() => boolean} current */
  #exactSoon(body, view, current) {
    clearTimeout(this.#exact);
    this.#exact = setTimeout(async () => {
      const looking = this.#dressed({ ...this.looking, view });
      if (!current() || this.#newest) return;
      try {
        const { keys } = await post(`${this.session.url}drafts`, { looking, exact: true, ...body });
        if (current() && !this.#newest) await this.canvas.show(keys, looking.level);
      } catch { /* letting go shows them */ }
    }, STILL);
  }

  /** A drag that does not keep up goes on with fewer pixels; one that has time to spare gets them back. @param {number} took */
  #pace(took) {
    this.#slow = took > SLOW ? this.#slow + 1 : 0;
    if (this.#slow > 1 && this.#coarser < COARSEST) this.#coarser += PACE;
    else if (took < FAST && this.#coarser > 0) this.#coarser -= PACE;
  }

  /** Show the plate as it is again. */
  giveUpDraft() {
    this.#newest = null;
    clearTimeout(this.#exact);
    this.refresh();
  }

  /** @param {string} field @param {unknown} value @param {string | symbol} [layer] */
  draftSet(field, value, layer = CHOSEN) { return this.draft("set", { layer, field, value }); }
}
