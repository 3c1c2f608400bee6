/** Panels over the canvas: Add, Log, Export. One is open at a time; the picture stays live beneath. */

import { all, find } from "../core/dom.js";
import { say } from "../core/says.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Panels extends EventTarget {
  /** What had the focus before a panel was opened. @type {Element | null} */
  #from = null;

  /** @param {Bench} bench */
  constructor(bench) {
    super();
    this.bench = bench;
    const { events, keys, root } = bench;
    events.on("click", "[data-opens]", (_, button) => this.open(button.dataset.opens));
    events.on("click", "[data-close]", () => this.close());
    events.on("click", ".menu [data-view], .menu [data-do], .menu [data-opens]", (_, inside) => {
      inside.closest("details").open = false;
      return false;
    });
    keys.bind("add", () => this.open("add"));
    document.body.addEventListener("htmx:responseError", (event) => this.#failed(/** @type {CustomEvent} */ (event).detail.xhr.responseText));
    document.body.addEventListener("htmx:sendError", () => say("The server does not answer. Nothing that was kept is lost; is Glyptic still running?"));
    root.addEventListener("pointerdown", (event) => { if (event.isTrusted) this.#closeMenus(/** @type {Element} */ (event.target)); }, true);
  }

  /** @param {string} text */
  #failed(text) { say(new DOMParser().parseFromString(text, "text/html").body.textContent?.trim() || "That did not work. Nothing was changed."); }

  /** Open menus close when something else is pressed. @param {Element} target */
  #closeMenus(target) {
    for (const menu of all(this.bench.root, "details.menu[open], details.pressure[open]", HTMLDetailsElement)) if (!menu.contains(target)) menu.open = false;
  }

  /** Close the menus that are open; false if none is. */
  closeMenus() {
    const open = all(this.bench.root, "details.menu[open], details.pressure[open]", HTMLDetailsElement);
    for (const menu of open) {
      menu.open = false;
      find(menu, "summary", HTMLElement).focus();
    }
    return open.length > 0;
  }

  get #panels() { return all(this.bench.root, ".panel", HTMLElement); }

  /** The name of the panel that is open, or ''. */
  get now() { return this.#panels.find((panel) => !panel.hidden)?.id ?? ""; }

  /** Close the panel that is open, and give the focus back; false if none is. */
  close() {
    const panel = this.#panels.find((one) => !one.hidden);
    if (!panel) return false;
    const hadFocus = panel.contains(document.activeElement);
    panel.hidden = true;
    this.#tell(panel.id, false);
    const back = this.#from instanceof HTMLElement && this.#from.isConnected && this.#from.offsetParent ? this.#from : this.bench.stage;
    if (hadFocus || document.activeElement === document.body) back.focus({ preventScroll: true });
    this.dispatchEvent(new CustomEvent("closed", { detail: panel.id }));
    return true;
  }

  /** @param {string} name @param {boolean} open */
  #tell(name, open) { for (const button of all(this.bench.root, `[data-opens="${name}"]`, HTMLElement)) button.setAttribute("aria-expanded", String(open)); }

  /** Open a panel; one that is open is closed. @param {string} name */
  open(name) {
    const wasOpen = this.now === name;
    const from = document.activeElement;
    this.close();
    if (wasOpen) return;
    this.#from = from;
    find(this.bench.root, `#${name}`, HTMLElement).hidden = false;
    this.#tell(name, true);
    this.dispatchEvent(new CustomEvent("opened", { detail: name }));
  }
}
