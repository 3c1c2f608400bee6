/** Sets: chosen cards under a name, at the left of the strip, switched together. */

import { find } from "../core/dom.js";
import { say } from "../core/says.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

export class Sets {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, session, strip } = bench;
    events.on("click", "[data-set-switch]", (_, { dataset, ariaPressed }) => session.edit("switch-set", { set: Number(dataset.setSwitch), on: ariaPressed !== "true" }));
    events.on("click", "[data-set-cards]", (_, { dataset }) => strip.chooseThese(JSON.parse(dataset.setCards)));
    events.on("click", "[data-set-remove]", (_, { dataset }) => session.edit("remove-set", { set: Number(dataset.setRemove) }));
    events.on("click", "[data-set-rename]", (_, button) => this.#ask(button.dataset.setRename, button.dataset.name));
    events.on("click", "#keep-set", () => this.#ask("", ""));
    events.on("submit", "#set-form", (event, form) => {
      event.preventDefault();
      this.#named(form);
    });
  }

  /** Ask for a name: of a set that is there, or of a new one of the chosen cards. @param {string} set @param {string} name */
  #ask(set, name) {
    const form = find(this.bench.root, "#set-form", HTMLFormElement);
    const input = find(form, "input", HTMLInputElement);
    if (!set && this.bench.session.chosen === this.bench.session.state.base && this.bench.strip.chosen.length < 2) {
      say("Choose cards first: Ctrl and a press chooses one more, Shift a range. They are then switched together.");
      return;
    }
    form.dataset.set = set;
    form.hidden = false;
    input.value = name;
    input.placeholder = `Set ${(this.bench.session.state.notes.sets?.length ?? 0) + 1}`;
    input.focus();
  }

  /** @param {HTMLFormElement} form */
  #named(form) {
    const { session, strip } = this.bench;
    const input = find(form, "input", HTMLInputElement);
    const name = input.value.trim() || input.placeholder;
    const { set } = form.dataset;
    form.hidden = true;
    if (set) session.edit("rename-set", { set: Number(set), name });
    else session.edit("keep-set", { name, layers: strip.chosen });
  }
}
