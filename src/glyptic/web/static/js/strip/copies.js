/** Cards copied from one plate and pasted on another: what is copied is kept in this browser. */

import { say } from "../core/says.js";
import { post } from "../core/server.js";
import { CHOSEN } from "../core/session.js";
import { keep, recall } from "../core/store.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const COPIED = "glyptic-copied-layers";

export class Copies {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    bench.keys.bind("copy-layers", () => { this.copy(); });
    bench.events.on("click", "#desk [data-copy-layers]", () => this.copy());
    bench.events.on("click", "#desk [data-paste-layers]", () => { if (!this.paste()) say("No cards were copied yet. Copy some with Ctrl+C."); });
  }

  /** Copy the chosen cards, as they are when all that was asked before has been answered. */
  async copy() {
    const { session, strip } = this.bench;
    await session.settled;
    try {
      const { copied } = await post(`${session.url}copied`, { layers: strip.chosen });
      keep(COPIED, copied);
      const { layers } = copied;
      say(`${layers.length === 1 ? `‘${layers[0].name}’ is` : `${layers.length} layers are`} copied, masks and pictures too. Ctrl+V pastes here or on another plate.`);
    } catch (error) {
      session.complain(error);
    }
  }

  /** Paste what was copied after the chosen card; false where nothing was. */
  paste() {
    const { session, waiting } = this.bench;
    const copied = recall(COPIED, { format: "" });
    if (!copied.format) return false;
    waiting.during("Pasting …", (signal) => session.ask("paste", { copied, after: CHOSEN }, { signal }));
    return true;
  }
}
