/** The controls of the pen, on the bench and on the settings page: what drives what, the bend, smoothing, the mouse. */

import { all, make } from "../core/dom.js";
import { fillBars } from "../desk/bars.js";
import { RECORDINGS } from "./practice.js";

/**
 * Let the controls under an element show a pen and set it.
 * @param {HTMLElement} root
 * @param {import("../core/events.js").Events} events
 * @param {import("./pen.js").Pen} pen
 */
export function penPanel(root, events, pen) {
  const inputs = (/** @type {string} */ selector) => all(root, selector, HTMLInputElement);
  const show = () => {
    for (const box of inputs("[data-drives]")) {
      const [what, measure] = (box.dataset.drives ?? "").split(" ");
      box.checked = pen.drives[what][measure];
    }
    for (const box of inputs("#mouse-pressure")) box.checked = pen.mouse;
    for (const bar of inputs("#smoothing")) bar.value = String(pen.smoothing * 100);
    for (const bar of inputs("#bend")) bar.value = String(Math.log2(pen.bend) * 50);
    fillBars(root);
  };
  events.on("input", "#smoothing", (_, input) => pen.tune({ smoothing: Number(input.value) / 100 }));
  events.on("input", "#bend", (_, input) => pen.tune({ bend: 2 ** (Number(input.value) / 50) }));
  events.on("input", "#mouse-pressure", (_, input) => pen.tune({ mouse: input.checked }));
  events.on("input", "[data-drives]", (_, input) => {
    const [what, measure] = input.dataset.drives.split(" ");
    pen.drive(what, measure, input.checked);
  });
  for (const select of all(root, "[data-practice]", HTMLSelectElement)) {
    select.append(...Object.entries(RECORDINGS).map(([value, { title, help }]) => make("option", { value, textContent: title, title: help })));
  }
  pen.addEventListener("change", show);
  show();
}
