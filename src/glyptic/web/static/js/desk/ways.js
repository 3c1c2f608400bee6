/** The ways to a mask, its parts and their order, and the masks that are taken from other layers. */

import Sortable from "../../vendor/sortable.esm.js";
import { find, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { formOf, postForm } from "../core/server.js";
import { CHOSEN } from "../core/session.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

/** The place of the part that a control belongs to. @param {HTMLElement} element */
const partOf = (element) => Number(element.closest("[data-part]")?.getAttribute("data-part"));

export class Ways {
  /** @type {Sortable | null} */
  #sortable = null;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    const { events, session, regions, brush } = bench;
    events.on("click", "#desk [data-way]", (_, button) => this.#take(button.dataset.way));
    events.on("click", "#desk [data-part-enabled]", (event, lamp) => {
      event.preventDefault();
      session.set(`mask.parts[${partOf(lamp)}].enabled`, lamp.dataset.partEnabled === "true");
    });
    events.on("click", "#desk [data-part-remove]", (_, button) => session.edit("remove-part", { layer: CHOSEN, part: partOf(button) }));
    events.on("click", "#desk [data-part-move]", (_, button) => session.edit("move-part", { layer: CHOSEN, part: partOf(button), to: Number(button.dataset.partMove) }));
    events.on("click", "#desk [data-shift-mask]", () => brush.take("shift"));
    events.on("change", "#desk [data-region-edge]", (_, bar) => regions.find({ edge: Number(bar.value) / 100 }, partOf(bar)));
    events.on("change", "#part-file", (_, input) => this.#addFile(input));
    events.on("change", "#take-mask", (_, select) => { if (select.value) this.#takeMask(...select.value.split(" ")); });
    bench.fresh(() => this.#fresh());
    brush.addEventListener("change", () => this.#showHand());
  }

  /** A way to a mask: a hand to draw with, or a part that is there at once. @param {string} way */
  #take(way) {
    const { session, brush, regions, declared, waiting } = this.bench;
    if (!session.state.target.mask) {
      say(`${session.state.target.why || "The base has no mask"}. Choose another layer.`);
      return;
    }
    const drawn = /** @type {Record<string, () => unknown>} */ ({
      paint: () => this.#paint(),
      region: () => regions.begin(),
      backdrop: () => regions.find({ begin: "backdrop", op: "show" }, null),
      picture: () => find(this.bench.root, "#part-file", HTMLInputElement).click(),
    });
    const fill = way.match(/^fill-(show|hide)$/)?.[1];
    if (drawn[way]) drawn[way]();
    else if (["ramp", "oval", "outline"].includes(way)) brush.take(way);
    else if (fill) session.edit("add-part", { layer: CHOSEN, part: { kind: "everything", op: fill } });
    else waiting.during("Working …", () => session.edit("add-part", { layer: CHOSEN, part: { kind: way, op: "show", ...declared.parts[way] } }));
  }

  #paint() {
    this.bench.brush.take("paint");
    this.bench.brush.paintOn("mask");
  }

  #fresh() {
    this.#sortable?.destroy();
    const list = maybe(this.bench.root, "#desk .mask-parts", HTMLElement);
    this.#sortable = list && new Sortable(list, {
      handle: ".grip", draggable: "[data-part]", animation: 120,
      onEnd: (/** @type {any} */ { oldDraggableIndex: part, newDraggableIndex: to }) => { if (part !== to) this.bench.session.edit("move-part", { layer: CHOSEN, part, to }); },
    });
    this.#showHand();
  }

  /** The way that is in the hand looks pressed. */
  #showHand() {
    const { brush, root } = this.bench;
    for (const button of root.querySelectorAll("#desk [data-way]")) button.setAttribute("aria-pressed", String(button.getAttribute("data-way") === brush.hand && !brush.ownShape && (brush.hand !== "paint" || brush.target === "mask")));
  }

  /** Take another layer's mask: a copy, an inverted one, the mask itself, or a link to it. @param {string} how @param {string} from */
  #takeMask(how = "", from = "") {
    const { session } = this.bench;
    if (how === "link") session.set("mask.linked", from);
    else session.edit("take-mask", { layer: CHOSEN, from, copy: how !== "move", invert: how === "invert" });
  }

  /** A grey picture of the plate's size as a part. @param {HTMLInputElement} input */
  async #addFile(input) {
    const [file] = input.files ?? [];
    const { session, showing, waiting } = this.bench;
    if (!file) return;
    const { looking } = showing;
    const form = formOf("picture", [file], { revision: session.state.revision, layer: session.chosen, op: "show", looking });
    input.value = "";
    try {
      session.adopt(await waiting.during(`Reading ${file.name} …`, (signal) => postForm(`${session.url}areas/picture`, form, undefined, signal)), looking);
    } catch (error) {
      session.complain(error);
    }
  }
}
