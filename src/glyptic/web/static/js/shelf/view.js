/** What of the shelf is looked at: swapped whole by the server's answers; its stretches are drawn near the window only. */

import { all, find } from "../core/dom.js";
import { say } from "../core/says.js";
import { getHtml, post, Refusal } from "../core/server.js";

/** How far from the window, in pixels, a stretch is drawn, and how far off it is let go again. */
const NEAR = 1200;
const FAR = 5000;
const htmx = () => /** @type {any} */ (globalThis).htmx;
/** @param {Element} one */
const asList = (one) => /** @type {HTMLElement} */ (one);

export class View extends EventTarget {
  /** Stretches on their way. @type {Set<string>} */
  #coming = new Set();
  #near = new IntersectionObserver((seen) => { for (const { target, isIntersecting } of seen) if (isIntersecting) this.#draw(asList(target)); }, { rootMargin: `${NEAR}px` });
  #far = new IntersectionObserver((seen) => { for (const { target, isIntersecting } of seen) if (!isIntersecting) this.#letGo(asList(target)); }, { rootMargin: `${FAR}px` });

  constructor() {
    super();
    this.root = find(document, "#view", HTMLElement);
    document.body.addEventListener("htmx:configRequest", (event) => Object.assign(/** @type {CustomEvent} */ (event).detail.headers, { "X-Shown": this.#shown }));
    document.body.addEventListener("htmx:afterSwap", () => this.#changed());
    globalThis.addEventListener("resize", () => this.#reserve());
    this.#changed();
  }

  get plates() { return find(this.root, "#plates", HTMLElement); }

  get cards() { return all(this.root, ".plate-card", HTMLElement); }

  get #stretches() { return all(this.root, "[data-from]", HTMLElement); }

  /** Where the stretches begin that are in sight, and those beside them. */
  get #shown() {
    const seen = this.#stretches.filter((one) => one.children.length && one.getBoundingClientRect().bottom > -NEAR && one.getBoundingClientRect().top < innerHeight + NEAR);
    return seen.map(({ dataset }) => dataset.from).join(",") || "0";
  }

  /** The numbers of all plates that are looked at, drawn or not. @returns {number[]} */
  get numbers() { return JSON.parse(this.plates.dataset.numbers ?? "[]"); }

  /** The shoot that is looked at, or ''. */
  get shoot() { return this.plates.dataset.shoot ?? ""; }

  /** The shoots there are. */
  get shoots() { return all(this.root, "[data-shoot][data-name]", HTMLElement).map(({ dataset }) => ({ id: Number(dataset.shoot), name: dataset.name ?? "" })); }

  /** The headers of a request whose answer shows what is shown now. */
  get headers() { return { "X-Shown": this.#shown, "HX-Current-URL": location.href }; }

  #changed() {
    this.#near.disconnect();
    this.#far.disconnect();
    this.#coming.clear();
    this.#reserve();
    for (const stretch of this.#stretches) {
      this.#near.observe(stretch);
      this.#far.observe(stretch);
    }
    this.dispatchEvent(new Event("change"));
  }

  /** A stretch that is not drawn is as high as it will be. */
  #reserve() {
    const { cards } = this;
    if (!cards[0]) return;
    const across = cards.filter((one) => one.offsetTop === cards[0].offsetTop).length;
    const next = cards.find((one) => one.offsetTop > cards[0].offsetTop);
    const row = next ? next.offsetTop - cards[0].offsetTop : cards[0].offsetHeight;
    for (const stretch of this.#stretches) stretch.style.minHeight = stretch.children.length ? "" : `${Math.ceil(Number(stretch.dataset.holds) / across) * row - (row - cards[0].offsetHeight)}px`;
  }

  /** @param {string} html */
  swap(html) {
    if (!html) return;
    this.root.innerHTML = html;
    htmx()?.process(this.root);
    this.#changed();
  }

  /** Ask for a deed, and show what comes of it; null where it was refused, which is said. @param {string} url @param {unknown} body */
  async deed(url, body = {}) {
    try {
      const answer = await post(url, body, undefined, this.headers);
      this.swap(answer.html);
      return answer;
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      say(error.message);
      return null;
    }
  }

  /** Look at another part of the shelf. @param {string} url */
  async look(url) {
    history.pushState({}, "", url);
    this.swap(await getHtml(url));
  }

  /** @param {HTMLElement} stretch */
  async #draw(stretch) {
    const { from = "" } = stretch.dataset;
    if (stretch.children.length || this.#coming.has(from)) return;
    this.#coming.add(from);
    try {
      const html = await getHtml(`/plates/more?${this.plates.dataset.query}&from=${from}`);
      if (!stretch.isConnected) return;
      stretch.innerHTML = html;
      stretch.style.minHeight = "";
      htmx()?.process(stretch);
      this.dispatchEvent(new CustomEvent("grown", { detail: all(stretch, ".plate-card", HTMLElement) }));
    } catch (error) {
      say(/** @type {Error} */ (error).message);
    } finally {
      this.#coming.delete(from);
    }
  }

  /** @param {HTMLElement} stretch */
  #letGo(stretch) {
    if (!stretch.children.length || stretch.contains(document.activeElement)) return;
    stretch.style.minHeight = `${stretch.offsetHeight}px`;
    stretch.replaceChildren();
  }
}
