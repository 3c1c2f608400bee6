/** Help: `?` on any control tells its sentence and its key; elsewhere it opens the list of all keys. */

import { find } from "../core/dom.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const GAP = 6;
const HELPED = "[title], [data-help]";

export class Help {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.tip = find(bench.root, "#tip", HTMLElement);
    this.list = find(bench.root, "#keys", HTMLDialogElement);
    bench.keys.bind("help", () => this.#ask());
    bench.events.on("click", "[data-help-keys]", () => this.list.showModal());
    for (const over of ["pointerdown", "keydown", "wheel"]) bench.root.addEventListener(over, (event) => { if (/** @type {KeyboardEvent} */ (event).key !== "?") this.close(); }, true);
  }

  /** What help is asked about: the control with the focus, or the one under the pointer. @returns {Element | null} */
  get #subject() {
    const { root, stage } = this.bench;
    const active = document.activeElement;
    const under = [...root.querySelectorAll(":hover")].at(-1);
    const focused = active && active !== document.body && active !== stage ? active.closest(HELPED) : null;
    const hovered = under && !under.closest("#stage") ? under.closest(HELPED) : null;
    return active instanceof HTMLElement && active.matches(":focus-visible") ? focused ?? hovered : hovered ?? focused;
  }

  #ask() {
    const subject = this.#subject;
    if (subject && this.bench.root.contains(subject) && subject !== this.bench.root) this.#tell(subject);
    else this.list.showModal();
  }

  /** @param {Element} subject */
  #tell(subject) {
    const label = subject.querySelector("label, .entry b")?.textContent ?? subject.getAttribute("aria-label") ?? "";
    const words = subject.getAttribute("data-help") ?? subject.getAttribute("title") ?? "";
    find(this.tip, "b", HTMLElement).textContent = label.trim();
    find(this.tip, "span", HTMLElement).textContent = words;
    this.tip.hidden = false;
    const box = subject.getBoundingClientRect();
    const { width, height } = this.tip.getBoundingClientRect();
    const above = box.top - height - GAP;
    this.tip.style.left = `${Math.max(GAP, Math.min(box.left, globalThis.innerWidth - width - GAP))}px`;
    this.tip.style.top = `${above > GAP ? above : Math.min(box.bottom + GAP, globalThis.innerHeight - height - GAP)}px`;
  }

  /** Put the tip away; false if there is none. */
  close() {
    if (this.tip.hidden) return false;
    this.tip.hidden = true;
    return true;
  }
}
