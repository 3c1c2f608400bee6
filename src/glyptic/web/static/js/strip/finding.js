/** Finding one's way along the strip: an overview where it does not fit, the wheel, dragging it, and a search. */

import { all, drawn, find, make } from "../core/dom.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const LEAST_PART = 3;

export class Finding {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.line = find(bench.root, "#strip-overview", SVGElement);
    this.search = find(bench.root, "#strip-search", HTMLInputElement);
    this.results = find(bench.root, "#strip-found", HTMLElement);
    this.#bindScroll();
    this.#bindSearch();
    bench.fresh(() => this.#draw());
  }

  get #cards() { return this.bench.strip.cards; }

  #bindScroll() {
    const { events, root } = this.bench;
    events.on("wheel", "#strip", (event) => {
      if (event.altKey) return false;
      event.preventDefault();
      this.#cards.scrollLeft += Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY;
      return true;
    });
    root.addEventListener("scroll", (event) => { if (event.target === this.#cards) this.#draw(); }, true);
    new ResizeObserver(() => this.#draw()).observe(find(root, "#strip-row", HTMLElement));
    events.drag("#strip-overview", (event) => {
      const go = (/** @type {PointerEvent} */ one) => {
        const box = this.line.getBoundingClientRect();
        const cards = this.#cards;
        cards.scrollLeft = ((one.clientX - box.left) / box.width) * cards.scrollWidth - cards.clientWidth / 2;
      };
      go(event);
      return { move: go, end() {}, giveUp() {} };
    });
    events.drag("#cards, #cards .group-row", (event, row) => (event.target === row ? this.#dragging(event) : null));
  }

  /** The strip is dragged by the ledge between its cards. @param {PointerEvent} event */
  #dragging(event) {
    const cards = this.#cards;
    const from = cards.scrollLeft + event.clientX;
    return { move: (/** @type {PointerEvent} */ one) => { cards.scrollLeft = from - one.clientX; }, end() {}, giveUp() { cards.scrollLeft = from - event.clientX; } };
  }

  /** The overview: a thin line of all cards, those at work dark, the visible stretch framed. */
  #draw() {
    const cards = this.#cards;
    const { scrollWidth: whole, clientWidth: seen, scrollLeft: left } = cards;
    this.line.toggleAttribute("hidden", whole <= seen + 1);
    if (whole <= seen + 1) return;
    const from = cards.getBoundingClientRect().left - left;
    const share = (/** @type {number} */ v) => (100 * v) / whole;
    const { chosen } = this.bench.session;
    const marks = all(cards, ".wrap", HTMLElement).filter((wrap) => wrap.offsetParent).map((wrap) => {
      const box = wrap.getBoundingClientRect();
      const isChosen = wrap.querySelector(`[data-choose="${CSS.escape(chosen)}"]`) !== null;
      return drawn("rect", { x: share(box.left - from), y: 3, width: Math.max(share(box.width) - 0.4, 0.2), height: LEAST_PART, class: isChosen ? "chosen" : wrap.classList.contains("offed") ? "off" : "" });
    });
    this.line.replaceChildren(...marks, drawn("rect", { class: "seen", x: share(left), y: 0.5, width: share(seen), height: 8 }));
  }

  #bindSearch() {
    const { events, keys, session } = this.bench;
    keys.bind("find-layer", () => this.#open());
    events.on("click", "#strip-find", () => this.#open());
    events.on("input", "#strip-search", () => this.#list());
    keys.bind("found-step", (event) => this.#step(event.key === "ArrowDown" ? 1 : -1));
    keys.bind("found-take", () => {
      const taken = this.results.querySelector("[aria-selected=true]") ?? this.results.firstElementChild;
      if (taken instanceof HTMLElement) this.#go(taken.dataset.go ?? "");
    });
    events.on("click", "#strip-found [data-go]", (_, item) => this.#go(item.dataset.go));
    events.on("focusout", "#strip-searching", (event, box) => { if (!box.contains(event.relatedTarget)) this.close(); });
    session.addEventListener("state", () => this.close());
  }

  get #box() { return find(this.bench.root, "#strip-searching", HTMLElement); }

  #open() {
    this.#box.hidden = false;
    this.search.value = "";
    this.#list();
    this.search.focus();
  }

  /** Put the search away; false if it was not there. */
  close() {
    if (this.#box.hidden) return false;
    const had = this.#box.contains(document.activeElement);
    this.#box.hidden = true;
    if (had) this.bench.stage.focus({ preventScroll: true });
    return true;
  }

  #list() {
    const words = this.search.value.toLowerCase().split(/\s+/).filter(Boolean);
    const cards = all(this.#cards, "[data-choose]", HTMLElement);
    const found = cards.filter((card) => words.every((word) => (card.dataset.words ?? "").toLowerCase().includes(word)));
    this.results.replaceChildren(...found.map((card, i) => make("li", { textContent: card.dataset.words ?? "", role: "option", "aria-selected": String(i === 0), "data-go": card.dataset.choose, id: `found-${i}` })));
    this.search.setAttribute("aria-activedescendant", found.length ? "found-0" : "");
    find(this.#box, "#strip-none", HTMLElement).hidden = found.length > 0;
  }

  /** @param {number} by */
  #step(by) {
    const items = all(this.results, "[data-go]", HTMLElement);
    const at = items.findIndex((item) => item.getAttribute("aria-selected") === "true");
    const next = Math.min(items.length - 1, Math.max(0, at + by));
    items.forEach((item, i) => item.setAttribute("aria-selected", String(i === next)));
    items[next]?.scrollIntoView({ block: "nearest" });
    this.search.setAttribute("aria-activedescendant", `found-${next}`);
  }

  /** @param {string} layer */
  #go(layer) {
    this.close();
    this.bench.session.ask("choose", { layer });
  }
}
