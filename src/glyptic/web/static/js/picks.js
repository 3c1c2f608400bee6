/** What is set by pressing on the picture, by holding a button, or worked out from the histogram. */

import { busyWith } from "./busy.js";
import { currentTab } from "./controls.js";
import { get } from "./server.js";
import { session } from "./session.js";
import { keep, recall } from "./store.js";

const WHOLE_RANGE = 250;
const KEPT = "glyptic-switches";

const STROKES = { name: "strokes", title: "Pick strokes", help: "Press on one; again for the next one down, with Shift for more; drag to shift them" };

let armed = "";

const eachChannel = () => document.querySelector("#each-channel")?.checked ?? false;

/** The pick in the hand: what it is for, or null where the chosen layer has none. */
export function pickInHand() {
  const { picks } = session.state;
  const names = Object.keys(picks);
  if (armed.startsWith("part:") && session.state.target.masked) return { name: armed, title: "Pick for the part", help: "Press on what it should cover, with Shift on more of it", part: Number(armed.slice(5)) };
  if (session.state.target.strokes && (armed === STROKES.name || !names.length)) return STROKES;
  if (!names.length) return null;
  const tab = currentTab("curves");
  const wanted = session.state.target.kind === "curves" ? tab : `${armed}${eachChannel() ? "-each" : ""}`;
  const name = [wanted, armed, names[0]].find((n) => n in picks);
  return { name, ...picks[name] };
}

/** Take a pick into the hand. */
export function arm(name) { armed = name; }

/** Presses on the picture: what is there is read, then the pick set by it; a drag up or down goes on from there. */
export class Picking {
  constructor(event, place, pick) {
    this.pick = pick;
    this.layer = session.chosen;
    this.from = event.clientY;
    this.by = 0;
    this.more = event.shiftKey;
    this.over = false;
    const question = new URLSearchParams({ x: place.x.toFixed(1), y: place.y.toFixed(1), level: session.canvas.level });
    this.seen = get(`${session.url}spot?${question}`).then((spot) => (spot.outside ? null : spot.below));
    if (pick.drags) this.#show();
  }

  get #edit() {
    const { part } = this.pick;
    if (part !== undefined) return (seen) => ["pick-part", { layer: this.layer, part, seen, more: this.more }];
    return (seen) => ["pick", { layer: this.layer, pick: this.pick.name, seen, by: this.by }];
  }

  async #show() {
    const seen = await this.seen.catch(() => null);
    if (seen && !this.over) session.draft(...this.#edit(seen));
  }

  move(event) {
    if (!this.pick.drags) return;
    this.by = Math.max(-2, Math.min(2, Number(((this.from - event.clientY) / WHOLE_RANGE).toFixed(4))));
    this.#show();
  }

  end() { return busyWith(this.#keep()); }

  async #keep() {
    this.over = true;
    try {
      const seen = await this.seen;
      if (seen) await session.edit(...this.#edit(seen));
    } catch (error) {
      session.complain(error);
    }
  }

  giveUp() {
    this.over = true;
    session.refresh();
  }
}

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#desk [data-auto]");
  if (button) session.ask("auto", { layer: session.chosen, auto: eachChannel() ? "each" : button.dataset.auto });
});

let held = null;

function hold(button) {
  held = button;
  const settings = JSON.parse(button.dataset.hold);
  session.draft("set", { layer: session.chosen, field: "settings", value: settings });
}

function letGo() {
  if (!held) return;
  held = null;
  session.giveUpDraft();
}

document.addEventListener("pointerdown", (event) => {
  const button = event.target.closest?.("[data-hold]");
  if (button) hold(button);
});
document.addEventListener("keydown", (event) => {
  const button = event.target.closest?.("[data-hold]");
  if (button && !held && (event.key === " " || event.key === "Enter")) hold(button);
});
for (const name of ["pointerup", "pointercancel", "keyup", "blur"]) globalThis.addEventListener(name, letGo);

/** Switches that belong to the page, not to the plate, stay as they were left. */
const switches = recall(KEPT, {});

export function freshSwitches() {
  for (const box of document.querySelectorAll("[data-kept]")) {
    if (box.dataset.kept in switches) box.checked = switches[box.dataset.kept];
  }
}
document.addEventListener("change", (event) => {
  const { kept } = event.target.dataset;
  if (!kept) return;
  switches[kept] = event.target.checked;
  keep(KEPT, switches);
});
