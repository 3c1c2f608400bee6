/**
 * The events of a page: one listener for each type, on its root. Who answers is found by selector, the innermost element
 * first; an answer of false passes the event on. A drag is a deed with `move`, `end` and `giveUp`.
 */

/**
 * @typedef {{ move(event: PointerEvent): void, end(event?: PointerEvent): void, giveUp(): void }} Deed
 * @typedef {(event: any, element: any) => unknown} Answer
 */

export class Events {
  #root;
  /** @type {Map<string, { selector: string, answer: Answer }[]>} */
  #answers = new Map();
  /** @type {{ selector: string, begin: (event: PointerEvent, element: any) => Deed | null | undefined }[]} */
  #drags = [];
  /** @type {Map<number, Deed>} */
  #active = new Map();

  /** @param {HTMLElement} root */
  constructor(root) {
    this.#root = root;
    root.addEventListener("pointerdown", (event) => this.#press(event));
    root.addEventListener("pointermove", (event) => this.#active.get(event.pointerId)?.move(event));
    for (const over of ["pointerup", "pointercancel", "lostpointercapture"]) {
      root.addEventListener(over, (event) => this.#release(/** @type {PointerEvent} */ (event)));
    }
  }

  /**
   * Answer events of some types (separated by spaces) on elements a selector names.
   * @param {string} types
   * @param {string} selector
   * @param {Answer} answer
   */
  on(types, selector, answer) {
    for (const type of types.split(" ")) {
      if (!this.#answers.has(type)) {
        this.#answers.set(type, []);
        this.#root.addEventListener(type, (event) => this.#dispatch(event), { passive: false });
      }
      this.#answers.get(type)?.push({ selector, answer });
    }
  }

  /** @param {Event} event */
  #dispatch(event) {
    const answers = this.#answers.get(event.type) ?? [];
    for (const element of this.#outwards(event)) {
      for (const { selector, answer } of answers) {
        if (element.matches(selector) && answer(event, element) !== false) return;
      }
    }
  }

  /** The elements of an event from the innermost to the root. @param {Event} event */
  *#outwards(event) {
    let element = event.target instanceof Element ? event.target : null;
    for (; element; element = element.parentElement) {
      yield element;
      if (element === this.#root) return;
    }
  }

  /**
   * Presses on elements a selector names begin a deed, where `begin` makes one.
   * @param {string} selector
   * @param {(event: PointerEvent, element: any) => Deed | null | undefined} begin
   */
  drag(selector, begin) { this.#drags.push({ selector, begin }); }

  /** @param {PointerEvent} event */
  #press(event) {
    if (event.button > 1 || this.#active.has(event.pointerId)) return;
    for (const element of this.#outwards(event)) {
      for (const { selector, begin } of this.#drags) {
        const deed = element.matches(selector) && begin(event, element);
        if (!deed) continue;
        event.preventDefault();
        if (event.isTrusted) element.setPointerCapture(event.pointerId);
        this.#active.set(event.pointerId, deed);
        return;
      }
    }
  }

  /** @param {PointerEvent} event */
  #release(event) {
    const deed = this.#active.get(event.pointerId);
    if (!this.#active.delete(event.pointerId)) return;
    deed?.end(event);
  }

  /** Whether anything is being dragged. */
  get dragging() { return this.#active.size > 0; }

  /** Give up what is being dragged; false if nothing is. */
  giveUp() {
    const deeds = [...this.#active.values()];
    this.#active.clear();
    for (const deed of deeds) deed.giveUp();
    return deeds.length > 0;
  }
}
