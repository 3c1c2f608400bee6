/** Masks dragged from card to card: moved, or copied while Ctrl is held. */

import { all } from "../core/dom.js";

const MASK = "text/x-glyptic-mask";

/** @param {DragEvent} event */
const carries = (event) => event.dataTransfer?.types.includes(MASK) ?? false;

/** @param {import("../core/bench.js").Bench} bench */
export function dragMasks({ events, root, session }) {
  const lightUp = (/** @type {Element | null} */ card) => {
    for (const lit of all(root, "#strip [data-choose]", HTMLElement)) lit.classList.toggle("takes-mask", lit === card);
  };
  events.on("dragstart", "[data-mask-of]", (event, grip) => event.dataTransfer.setData(MASK, grip.dataset.maskOf));
  events.on("dragover", "#strip [data-choose]", (event, card) => {
    if (!carries(event)) return false;
    lightUp(card);
    event.preventDefault();
    event.dataTransfer.dropEffect = event.ctrlKey ? "copy" : "move";
    return true;
  });
  events.on("dragend", "#strip *", () => {
    lightUp(null);
    return false;
  });
  events.on("drop", "#strip [data-choose]", (event, card) => {
    if (!carries(event)) return false;
    lightUp(null);
    event.preventDefault();
    return session.edit("take-mask", { layer: card.dataset.choose, from: event.dataTransfer.getData(MASK), copy: event.ctrlKey });
  });
}
