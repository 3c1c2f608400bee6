/**
 * The keys of the page, by the names they are declared under on the server: what is pressed, where, and what it says of
 * itself stand there; here a deed is bound to each name.
 */

/**
 * @typedef {import("./declared").Key} Key
 * @typedef {(event: KeyboardEvent, element: any) => unknown} Press
 */

const TYPED = 'input:not([type="range"]):not([type="checkbox"]):not([type="radio"]), textarea, select';
/** What takes the space bar and Enter for itself. */
const PRESSED = 'button, summary, a, [role="button"], [role="slider"], input[type="checkbox"], input[type="radio"]';
/** Keys that are worked while text is typed. */
const WHILE_TYPING = new Set(["Escape", "Enter"]);

/** What a key event presses, written as the declarations write it. @param {KeyboardEvent} event @param {boolean} free */
function pressed(event, free) {
  const { key } = event;
  const letter = key.length === 1 ? key.toLowerCase() : key;
  const isSign = key.length === 1 && letter === key.toUpperCase();
  const shift = event.shiftKey && !free && !isSign ? "shift+" : "";
  const alt = event.altKey && !free ? "alt+" : "";
  return `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${alt}${shift}${letter}`;
}

export class Keys {
  #root;
  #declared;
  /** @type {Map<string, { press: Press, release?: () => void }>} */
  #deeds = new Map();
  /** Keys that are held: the name of what each does. @type {Map<string, string>} */
  #held = new Map();

  /** @param {HTMLElement} root @param {Key[]} declared */
  constructor(root, declared) {
    this.#root = root;
    this.#declared = declared;
    document.addEventListener("keydown", (event) => this.#down(event), true);
    document.addEventListener("keyup", (event) => this.#up(event.key.toLowerCase()));
    globalThis.addEventListener("blur", () => this.letGo());
  }

  /**
   * Bind a deed to a declared name; one that is held is ended by `release`. A deed that answers false passes the key on.
   * @param {string} name
   * @param {Press} press
   * @param {() => void} [release]
   */
  bind(name, press, release) {
    if (!this.#declared.some((key) => key.name === name)) throw new Error(`no key is declared as ${name}`);
    this.#deeds.set(name, { press, release });
  }

  /** Names that are declared and do nothing; for the tests. */
  get unbound() { return this.#declared.map(({ name }) => name).filter((name) => !this.#deeds.has(name)); }

  /** Do what a key does. @param {string} name */
  press(name) { this.#deeds.get(name)?.press(new KeyboardEvent("keydown"), this.#root); }

  /** @param {KeyboardEvent} event */
  #down(event) {
    const target = event.target instanceof Element ? event.target : document.body;
    if (target.closest("dialog")) return;
    for (const key of this.#declared) {
      if (!key.presses.includes(pressed(event, key.free))) continue;
      const element = this.#place(key, target, event);
      const deed = this.#deeds.get(key.name);
      if (!element || !deed) continue;
      if (event.repeat && !key.repeats) {
        event.preventDefault();
        return;
      }
      if (deed.press(event, element) === false) continue;
      if (key.held) this.#held.set(event.key.toLowerCase(), key.name);
      event.preventDefault();
      event.stopPropagation();
      return;
    }
  }

  /** Where a key is worked: the element it belongs to, or null where it is not meant. @param {Key} key @param {Element} target @param {KeyboardEvent} event */
  #place(key, target, event) {
    if (key.where) return target.closest(key.where);
    if (target.matches(TYPED) && !WHILE_TYPING.has(event.key)) return null;
    if (target.matches(PRESSED) && (event.key === " " || event.key === "Enter")) return null;
    return this.#root;
  }

  /** @param {string} key */
  #up(key) {
    const name = this.#held.get(key);
    if (!name) return;
    this.#held.delete(key);
    this.#deeds.get(name)?.release?.();
  }

  /** Let go of all that is held. */
  letGo() { for (const key of this.#held.keys()) this.#up(key); }
}
