/** The plate being worked on: its state, and every edit of it, one after the other. */

import { Idiomorph } from "../../vendor/idiomorph.esm.js";
import { busyWith } from "./busy.js";
import { say } from "./says.js";
import { post, Refusal } from "./server.js";

/**
 * @typedef {import("./bench.js").Bench} Bench
 * @typedef {import("./declared").PageState} PageState
 * @typedef {{ revision?: number, edit?: string, arguments?: any, [more: string]: any }} Body
 * @typedef {{ signal?: AbortSignal, always?: boolean }} Way always: goes on trying whatever the server's fault
 * @typedef {{ active: Element, fragment: string, selector: string }} Focus
 */

/** The layer that is chosen when an edit's turn has come: what a control of the desk means. */
export const CHOSEN = Symbol("the chosen layer");
/** What stands for the frame where a layer is named: its card stands among them. */
export const FRAME = "@frame";

/** What tells one control from the others. */
const NAMES = ["id", "data-field", "data-edit", "data-show", "data-opacity", "data-way", "data-leaf", "data-tab", "data-handle", "data-edge", "data-point", "data-do", "data-part-enabled"];
const AGAIN = 1500;
/** Milliseconds that an edit waits for the keys of its pixels, and all that is told of it for the pixels. */
const [TRIED_WITHIN, WORDS_WAIT] = [100, 200];
/** Failures in a row after which there is no use in trying again without being asked to. */
const TRIES = 2400;

const keepsOpen = { callbacks: { beforeAttributeUpdated: (/** @type {string} */ name, /** @type {Element} */ node) => !(node.tagName === "DETAILS" && name === "open") } };
const wait = (/** @type {number} */ time) => new Promise((resolve) => { setTimeout(resolve, time); });

export class Session extends EventTarget {
  /** @type {Promise<unknown>} */
  #queue = Promise.resolve();
  #asking = 0;
  #giveUp = false;

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.bench = bench;
    this.url = bench.root.dataset.plate ?? "";
    this.madeBy = bench.root.dataset.madeBy ?? "";
    /** @type {PageState} */
    this.state = JSON.parse(bench.root.dataset.state ?? "{}");
  }

  get chosen() { return this.state.chosen; }

  /** Whether anything is asked that has not been answered. */
  get asking() { return this.#asking > 0; }

  /** Resolves when all that was asked so far has been answered. */
  get settled() { return this.#queue; }

  /** Say what went wrong; a stale edit brings the true state. @param {unknown} error */
  complain(error) {
    if (error instanceof DOMException && error.name === "AbortError") return;
    if (!(error instanceof Refusal)) throw error;
    if (error.body?.revision) this.adopt(error.body, null);
    say(error.message);
  }

  /** Take over an answer: state, fragments, keys. @param {any} answer @param {any} looking */
  adopt(answer, looking) {
    const { html, keys, ...state } = answer;
    const before = this.state;
    this.state = state;
    this.bench.showing.answered(keys, looking);
    const focus = this.#focused();
    for (const [name, text] of Object.entries(html)) this.#swap(name, text);
    this.dispatchEvent(new CustomEvent("state", { detail: { before } }));
    this.#focusAgain(focus);
  }

  /** @param {string} name @param {string} html */
  #swap(name, html) {
    const element = this.bench.root.querySelector(`#${name}`);
    const made = new DOMParser().parseFromString(html, "text/html").body.firstElementChild;
    if (!(element instanceof HTMLElement) || !(made instanceof HTMLElement)) return;
    if (element.dataset.layer !== made.dataset.layer) element.replaceWith(made);
    else Idiomorph.morph(element, made, { ignoreActiveValue: true, ...keepsOpen });
  }

  /** What has the focus in what is about to be drawn anew, and how to find it again. @returns {Focus | null} */
  #focused() {
    const { activeElement: active } = document;
    const fragment = active?.closest("#desk, #strip, #history");
    if (!active || !fragment) return null;
    const attribute = NAMES.find((name) => active.getAttribute(name));
    const selector = attribute ? `${active.localName}[${attribute}="${CSS.escape(active.getAttribute(attribute) ?? "")}"]` : "";
    const card = active.closest("[data-choose]");
    return { active, fragment: fragment.id, selector: card && !attribute ? `[data-choose="${CSS.escape(card.getAttribute("data-choose") ?? "")}"] .choose` : selector };
  }

  /** Focus is never lost: it goes to what it was on, or to what the fragment opens with. @param {Focus | null} focus */
  #focusAgain(focus) {
    if (!focus || (focus.active.isConnected && document.activeElement === focus.active)) return;
    const { root, stage } = this.bench;
    const same = focus.selector ? root.querySelector(`#${focus.fragment} ${focus.selector}`) : null;
    const place = same instanceof Element && !same.matches(":disabled") ? same : root.querySelector(`#${focus.fragment} [data-focus]`) ?? stage;
    if (place instanceof HTMLElement || place instanceof SVGElement) place.focus({ preventScroll: true });
  }

  /** The body of a request with its layer named: the one that is chosen now, where the control meant that and it is of
   * the kind it was pressed on. @param {Body} body @param {{ id: string, kind: string }} pressed */
  #named(body, pressed) {
    const layer = this.state.target.kind === pressed.kind ? this.chosen : pressed.id;
    const named = (/** @type {any} */ value) => (value === CHOSEN ? layer : Array.isArray(value) ? value.map((one) => (one === CHOSEN ? layer : one)) : value);
    const of = (/** @type {any} */ values) => Object.fromEntries(Object.entries(values).map(([name, value]) => [name, named(value)]));
    return body.arguments ? { ...of(body), arguments: of(body.arguments) } : of(body);
  }

  /** POST something that changes the state, after whatever was asked before it has been answered. @param {string} path @param {Body} body @param {Way} [way] */
  #ask(path, body, way = {}) {
    const pressed = { id: this.chosen, kind: this.state.target.kind };
    const { showing } = this.bench;
    const tried = this.#asking ? null : showing.ahead(path, this.#named(body, pressed));
    this.#asking += 1;
    const run = async () => {
      const named = this.#named(body, pressed);
      const { looking } = showing;
      const was = this.state.root;
      this.#tell("keeping");
      try {
        if (tried) await Promise.race([tried.known, wait(TRIED_WITHIN)]);
        const answer = await this.#sent(`${this.url}${path}`, { looking, ...named, tried: tried !== null }, way);
        if (tried && this.#asking === 1) await Promise.race([tried.shown, wait(WORDS_WAIT)]);
        this.adopt(answer, looking);
        showing.leads(path, named, was, answer.root);
        return answer;
      } finally {
        this.#asking -= 1;
        if (!this.#asking) this.#tell("kept");
      }
    };
    const result = busyWith(this.#queue.then(run, run));
    this.#queue = result.catch(() => {});
    return result;
  }

  /** Send until it is answered: while the server is silent, or cannot keep anything, it is held here and sent again; an
   * edit goes under a number, so that it is kept once however often it is sent. @param {string} url @param {any} body @param {Way} way */
  async #sent(url, body, { signal, always }) {
    const number = body.number ?? crypto.randomUUID();
    signal?.addEventListener("abort", () => { post(`${this.url}stop`, { number }).catch(() => {}); });
    for (let tries = 1; ; tries += 1) {
      try {
        return await post(url, { revision: this.state.revision, ...body, number }, signal);
      } catch (error) {
        if (!(error instanceof Refusal) || !error.passes || (error.status === 500 && !always) || tries > TRIES || this.#giveUp) {
          this.#giveUp = false;
          throw error;
        }
        this.#tell("held");
        say(`${error.message} What you did last is held here and kept as soon as that is over.`, 60, { words: "Give it up", press: () => { this.#giveUp = true; } });
        await wait(AGAIN);
      }
    }
  }

  /** @param {"keeping" | "kept" | "held"} what */
  #tell(what) { this.dispatchEvent(new CustomEvent("keeping", { detail: what })); }

  /**
   * Ask, and turn a refusal into a sentence and the true state.
   * @param {string} path
   * @param {Body} body
   * @param {Way} [way]
   */
  async ask(path, body = {}, way = {}) {
    const { showing } = this.bench;
    showing.forgetDraft();
    try {
      return await this.#ask(path, body, way);
    } catch (error) {
      this.complain(error);
      if (error instanceof Refusal && error.status === 422) await this.#catchUp();
      else showing.refresh();
      return null;
    }
  }

  /** Another tab went on, or an edit was refused: take over the true state. */
  async #catchUp() {
    await this.#ask("state", {}).catch((error) => this.complain(error));
  }

  catchUp() { return this.#catchUp(); }

  /** As `ask`, but a failure is the caller's to handle. @param {string} path @param {Body} body @param {Way} way */
  tryAsk(path, body, way) { return this.#ask(path, body, way); }

  /** @param {string} edit @param {any} args */
  edit(edit, args) { return this.ask("edits", { edit, arguments: args }); }

  /** Set a field of a layer. @param {string} field @param {unknown} value @param {string | symbol} [layer] */
  set(field, value, layer = CHOSEN) { return this.edit("set", { layer, field, value }); }
}
