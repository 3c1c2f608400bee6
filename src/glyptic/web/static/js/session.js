/** The plate being worked on: its state, every edit of it, and what is on screen of it. */

import { Idiomorph } from "../vendor/idiomorph.esm.js";
import { begin, end } from "./busy.js";
import { hatch, onHatch, showHatch } from "./hatch.js";
import { Canvas } from "./canvas.js";
import { say } from "./says.js";
import { post, postForFramed, Refusal } from "./server.js";

const REST = 500;
const STILL = 250;
const REMEMBERED = 200;
const AGAIN = 1500;
const SLOW = 140;
const FAST = 25;
const COARSEST = 2;

const root = document.querySelector("#bench");
const keepsOpen = { callbacks: { beforeAttributeUpdated: (name, node) => !(node.tagName === "DETAILS" && name === "open") } };

function remember(map, key, value) {
  map.delete(key);
  map.set(key, value);
  if (map.size > REMEMBERED) map.delete(map.keys().next().value);
}

class Session extends EventTarget {
  #newest = null;
  #busy = false;
  #opened = false;
  #opening = null;
  #looks = 0;
  #pause = 0;
  #again = 0;
  #coarser = 1;
  #queue = Promise.resolve();
  #asking = 0;
  #exact = 0;
  #keysOf = new Map();
  #leadsTo = new Map();

  constructor() {
    super();
    this.url = root.dataset.plate;
    this.madeBy = root.dataset.madeBy;
    this.state = JSON.parse(root.dataset.state);
    this.view = "finished";
    this.canvas = new Canvas(document.querySelector("#stage"), Number(root.dataset.width), Number(root.dataset.height));
    this.canvas.addEventListener("moved", () => this.refresh());
    this.canvas.addEventListener("missed", () => this.#refreshLater());
    onHatch(() => this.refresh());
  }

  get chosen() { return this.state.chosen; }
  get looking() { return this.#dressed(this.canvas.looking(this.view, this.state.chosen)); }

  /** What is looked at, with the hatch where it is drawn. */
  #dressed(looking) { return looking.view === "mask-over" ? { ...looking, hatch: hatch() } : looking; }

  /** Ask for what is on screen now; only the newest question counts. */
  async refresh() {
    const number = (this.#looks += 1);
    this.#overviewSoon();
    await Promise.resolve();
    if (number !== this.#looks || !this.canvas.ready || !this.#opened) return;
    const looking = this.looking;
    try {
      const answer = await post(`${this.url}keys`, { looking });
      if (answer.revision === this.state.revision) this.#remember(looking, answer.keys);
      if (number === this.#looks) await this.canvas.show(answer.keys, looking.level);
      if (answer.revision !== this.state.revision && number === this.#looks) this.#catchUp();
    } catch (error) {
      this.complain(error);
    }
  }

  /** A while after the last change, keep an overview of what could come into sight. */
  #overviewSoon() {
    clearTimeout(this.#pause);
    this.#pause = setTimeout(() => this.#overview(), REST);
  }

  async #overview() {
    const looking = this.#dressed(this.canvas.overview(this.view, this.chosen));
    try {
      const { keys } = await post(`${this.url}keys`, { looking });
      await this.canvas.keepOverview(keys, looking);
      if (this.#opened) await this.#prepare();
    } catch { /* the next change asks again */ }
  }

  /** While nothing happens, fetch what may come into sight next. */
  async #prepare() {
    const number = this.#looks;
    const current = () => number === this.#looks && !this.#busy && !this.#asking;
    for (const soon of this.canvas.lookingSoon(this.view, this.chosen)) {
      const looking = this.#dressed(soon);
      if (!current()) return;
      const { keys } = await post(`${this.url}keys`, { looking });
      await this.canvas.prepare(keys, looking.level, current);
    }
  }

  /** Remember the keys of what was looked at in the current state: a plate is a value, they never change. */
  #remember(looking, keys) {
    remember(this.#keysOf, `${this.state.root} ${JSON.stringify(looking)}`, keys);
  }

  /** The state that an edit is known to lead to from the current one. */
  #ahead(path, body) {
    if (path === "undo" || path === "redo") return this.state[path];
    return this.#leadsTo.get(this.#step(path, body));
  }

  #step(path, body) { return `${this.state.root} ${path} ${JSON.stringify(body)}`; }

  /** Show where an edit leads at once, where that state was on screen before. */
  #showAhead(path, body, looking) {
    if (this.#asking) return;
    const keys = this.#keysOf.get(`${this.#ahead(path, body)} ${JSON.stringify(looking)}`);
    if (keys && this.canvas.has(keys)) this.canvas.show(keys, looking.level);
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

  /** Another tab went on: take over its state. */
  async #catchUp() {
    await this.#ask("state", {}).catch((error) => this.complain(error));
  }

  /** A tile that did not come is asked for again after a while, however many did not. */
  #refreshLater() {
    clearTimeout(this.#again);
    this.#again = setTimeout(() => this.refresh(), AGAIN);
  }

  complain(error) {
    if (error instanceof Refusal) {
      if (error.body?.revision) this.adopt(error.body, null);
      say(error.message);
    } else {
      throw error;
    }
  }

  setView(view) {
    this.view = view;
    showHatch(view === "mask-over");
    this.refresh();
    this.dispatchEvent(new Event("view"));
  }

  /** Take over an answer: state, fragments, keys. */
  adopt(answer, looking) {
    const { html, keys, ...state } = answer;
    const before = this.state;
    this.#overviewSoon();
    clearTimeout(this.#exact);
    this.state = state;
    if (looking && keys.length) this.#remember({ ...looking, layer: state.chosen }, keys);
    for (const [name, text] of Object.entries(html)) this.#swap(document.querySelector(`#${name}`), text);
    this.dispatchEvent(new CustomEvent("state", { detail: { before } }));
    if (looking && looking.view === this.view && looking.level === this.canvas.level && keys.length) {
      this.#looks += 1;
      this.canvas.show(keys, looking.level);
      if (JSON.stringify(looking.rect) !== JSON.stringify(this.looking.rect)) this.refresh();
    } else {
      this.refresh();
    }
  }

  #swap(element, html) {
    const made = new DOMParser().parseFromString(html, "text/html").body.firstElementChild;
    if (element.dataset.layer !== made.dataset.layer) element.replaceWith(made);
    else Idiomorph.morph(element, made, { ignoreActiveValue: true, ...keepsOpen });
  }

  /** POST something that changes the state, after whatever was asked before it has been answered. */
  #ask(path, body) {
    this.#showAhead(path, body, this.looking);
    this.#asking += 1;
    const run = async () => {
      const looking = this.looking;
      const step = this.#step(path, body);
      const started = this.state.root;
      this.dispatchEvent(new CustomEvent("keeping", { detail: true }));
      try {
        const answer = await post(`${this.url}${path}`, { revision: this.state.revision, looking, ...body });
        this.adopt(answer, looking);
        remember(this.#leadsTo, step, answer.root);
        if (body.edit === "show-layers" && body.arguments.layers.length === 1) {
          const back = { ...body, arguments: { ...body.arguments, visible: !body.arguments.visible } };
          remember(this.#leadsTo, this.#step(path, back), started);
        }
        return answer;
      } finally {
        this.#asking -= 1;
        this.dispatchEvent(new CustomEvent("keeping", { detail: false }));
      }
    };
    const result = this.#queue.then(run, run);
    this.#queue = result.catch(() => {});
    return result;
  }

  /** Ask, and turn a refusal into a sentence and the true state. */
  async ask(path, body = {}) {
    this.#newest = null;
    this.#looks += 1;
    try {
      return await this.#ask(path, body);
    } catch (error) {
      this.complain(error);
      if (error.status === 422) await this.#catchUp();
      else this.refresh();
      return null;
    }
  }

  /** As `ask`, but a failure is the caller's to handle. */
  tryAsk(path, body) { return this.#ask(path, body); }

  edit(edit, args) { return this.ask("edits", { edit, arguments: args }); }
  set(field, value, layer = this.chosen) { return this.edit("set", { layer, field, value }); }

  /** Show what an edit would do while it is dragged: the newest value only, one question at a time. */
  async draft(edit, args, view = this.view) {
    this.#newest = { edit, arguments: args, view };
    if (this.#busy) return;
    this.#busy = true;
    begin();
    while (this.#newest) {
      const { view: shown, ...body } = this.#newest;
      this.#newest = null;
      const looking = this.#dressed(this.canvas.lookingCoarser(shown, this.chosen, this.#coarser));
      const started = performance.now();
      const number = (this.#looks += 1);
      const current = () => number === this.#looks;
      try {
        const { head, content } = await postForFramed(`${this.url}drafts`, { revision: this.state.revision, looking, ...body });
        if (!current()) continue;
        this.dispatchEvent(new CustomEvent("draft", { detail: head }));
        await this.canvas.showQuick(content, head.rect, head.level, current);
        this.#pace(performance.now() - started);
        this.#exactSoon(body, shown, current);
      } catch (error) {
        this.#newest = null;
        if (error.status !== 422) this.complain(error);
      }
    }
    this.#busy = false;
    end();
  }

  /** When the hand holds still in a drag, the exact pixels take the place of the quick ones. */
  #exactSoon(body, view, current) {
    clearTimeout(this.#exact);
    this.#exact = setTimeout(async () => {
      const looking = this.#dressed({ ...this.looking, view });
      if (!current() || this.#newest) return;
      try {
        const { keys } = await post(`${this.url}drafts`, { revision: this.state.revision, looking, exact: true, ...body });
        if (current() && !this.#newest) await this.canvas.show(keys, looking.level);
      } catch { /* letting go shows them */ }
    }, STILL);
  }

  /** A drag that does not keep up goes on with fewer pixels; one that has time to spare gets them back. */
  #pace(took) {
    if (took > SLOW && this.#coarser < COARSEST) this.#coarser += 1;
    else if (took < FAST && this.#coarser > 0) this.#coarser -= 1;
  }

  /** Show the plate as it is again. */
  giveUpDraft() {
    this.#newest = null;
    clearTimeout(this.#exact);
    this.refresh();
  }

  draftSet(field, value, layer = this.chosen) { return this.draft("set", { layer, field, value }); }
}

export const session = new Session();
