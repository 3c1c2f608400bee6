/** What is set by pressing on the picture, by holding a button, or worked out from the histogram. */

import { busyWith } from "../core/busy.js";
import { all } from "../core/dom.js";
import { get } from "../core/server.js";
import { keep, recall } from "../core/store.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ name: string, title: string, help: string, drags?: boolean, part?: number }} Pick
 */

const WHOLE_RANGE = 250;
const MOST = 2;
const KEPT = "glyptic-switches";
/** @type {Pick} */
const STROKES = { name: "strokes", title: "Pick strokes", help: "Press on one; again for the next one down, with Shift for more; drag to shift them" };

export class Picks {
  #armed = "";
  /** Switches that belong to the page, not to the plate, stay as they were left. @type {Record<string, boolean>} */
  #switches = recall(KEPT, {});

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, keys, session, showing } = bench;
    events.on("click", "#desk [data-pick]", (_, button) => this.arm(button.dataset.pick));
    events.on("click", "#desk [data-auto]", (_, button) => {
      const auto = this.#eachChannel ? "each" : button.dataset.auto;
      bench.waiting.during("Reading the histogram …", (signal) => session.ask("auto", { layer: session.chosen, auto }, { signal }));
    });
    events.on("change", "[data-kept]", (_, box) => {
      this.#switches[box.dataset.kept] = box.checked;
      keep(KEPT, this.#switches);
    });
    const hold = (/** @type {HTMLElement} */ button) => {
      showing.draft("set", { layer: session.chosen, field: "settings", value: JSON.parse(button.dataset.hold ?? "{}") });
    };
    const letGo = () => showing.giveUpDraft();
    events.drag("[data-hold]", (_, button) => {
      hold(button);
      return { move() {}, end: letGo, giveUp: letGo };
    });
    keys.bind("hold", (_, button) => hold(button), letGo);
    bench.fresh(() => this.#showSwitches());
  }

  #showSwitches() {
    for (const box of all(this.bench.root, "[data-kept]", HTMLInputElement)) box.checked = this.#switches[box.dataset.kept ?? ""] ?? box.checked;
  }

  get #eachChannel() { return this.bench.root.querySelector("#each-channel:checked") !== null; }

  /** Take a pick into the hand. @param {string} name */
  arm(name) {
    this.#armed = name;
    this.bench.brush.take("pick");
  }

  /** The pick in the hand: what it is for, or null where the chosen layer has none. @returns {Pick | null} */
  get inHand() {
    const { picks, target } = this.bench.session.state;
    const names = Object.keys(picks);
    if (this.#armed.startsWith("part:") && target.masked) return { name: this.#armed, title: "Pick for the part", help: "Press on what it should cover, with Shift on more of it", part: Number(this.#armed.slice(5)) };
    if (target.strokes && (this.#armed === STROKES.name || !names.length)) return STROKES;
    if (!names.length) return null;
    const wanted = target.kind === "curves" ? this.bench.desk.tabOf("curves") : `${this.#armed}${this.#eachChannel ? "-each" : ""}`;
    const name = [wanted, this.#armed, names[0]].find((one) => one in picks) ?? names[0];
    return { name, ...picks[name] };
  }

  /** The deed of a press on the picture, or null. @param {PointerEvent} event */
  press(event) {
    const pick = this.inHand;
    if (pick?.name === STROKES.name) return this.bench.strokes.press(event);
    return pick ? new Picking(this.bench, event, pick) : null;
  }
}

/** Presses on the picture: what is there is read, then the pick set by it; a drag up or down goes on from there. */
class Picking {
  #by = 0;
  #over = false;

  /** @param {Bench} bench @param {PointerEvent} event @param {Pick} pick */
  constructor(bench, event, pick) {
    this.bench = bench;
    this.pick = pick;
    this.layer = bench.session.chosen;
    this.from = event.clientY;
    this.more = event.shiftKey;
    const { x, y } = bench.canvas.shownAt(event);
    const question = new URLSearchParams({ x: x.toFixed(1), y: y.toFixed(1), level: String(bench.canvas.level) });
    this.seen = get(`${bench.session.url}spot?${question}`).then((spot) => (spot.outside ? null : spot.below));
    if (pick.drags) this.#show();
  }

  /** @param {unknown} seen @returns {[string, any]} */
  #edit(seen) {
    const { part, name } = this.pick;
    if (part !== undefined) return ["pick-part", { layer: this.layer, part, seen, more: this.more }];
    return ["pick", { layer: this.layer, pick: name, seen, by: this.#by }];
  }

  async #show() {
    const seen = await this.seen.catch(() => null);
    if (seen && !this.#over) this.bench.showing.draft(...this.#edit(seen));
  }

  /** @param {PointerEvent} event */
  move(event) {
    if (!this.pick.drags) return;
    this.#by = Math.max(-MOST, Math.min(MOST, Number(((this.from - event.clientY) / WHOLE_RANGE).toFixed(4))));
    this.#show();
  }

  end() { busyWith(this.#keep()); }

  async #keep() {
    this.#over = true;
    try {
      const seen = await this.seen;
      if (seen) await this.bench.session.edit(...this.#edit(seen));
    } catch (error) {
      this.bench.session.complain(error);
    }
  }

  giveUp() {
    this.#over = true;
    this.bench.showing.giveUpDraft();
  }
}
