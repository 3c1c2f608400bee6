/** The controls of the pen, on the bench and on the settings page: what drives what, the bend, smoothing, the mouse. */

import { fillBars } from "./bars.js";
import { pen } from "./pen.js";
import { RECORDINGS } from "./practice.js";

const all = (selector) => document.querySelectorAll(selector);

export function showPen() {
  for (const box of all("[data-drives]")) {
    const [what, measure] = box.dataset.drives.split(" ");
    box.checked = pen.drives[what][measure];
  }
  for (const box of all("#mouse-pressure")) box.checked = pen.mouse;
  for (const bar of all("#smoothing")) bar.value = pen.smoothing * 100;
  for (const bar of all("#bend")) bar.value = Math.log2(pen.bend) * 50;
  fillBars();
}

document.addEventListener("input", ({ target }) => {
  const value = Number(target.value);
  if (target.id === "smoothing") pen.tune({ smoothing: value / 100 });
  if (target.id === "bend") pen.tune({ bend: 2 ** (value / 50) });
  if (target.id === "mouse-pressure") pen.tune({ mouse: target.checked });
  if (target.dataset?.drives) pen.drive(...target.dataset.drives.split(" "), target.checked);
});
pen.addEventListener("change", showPen);
for (const select of all("[data-practice]")) {
  select.append(...Object.entries(RECORDINGS).map(([value, { title, help }]) => Object.assign(document.createElement("option"), { value, textContent: title, title: help })));
}
showPen();
