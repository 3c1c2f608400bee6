/** The hatch over a mask: its colour and how strongly it covers, kept in this browser. */

import { keep, recall } from "./store.js";

const STORED = "glyptic-hatch";
const box = document.querySelector("#hatch");
const [colour, strength] = box.querySelectorAll("input");
[colour.value, strength.value] = recall(STORED, [colour.value, strength.value]);

/** [r, g, b, strength], each 0..1. */
export const hatch = () => [...[1, 3, 5].map((at) => Number.parseInt(colour.value.slice(at, at + 2), 16) / 255), Number(strength.value) / 100];

/** Show the controls while a hatch is on screen; `changed` is told when it is another. */
export function showHatch(shown) { box.hidden = !shown; }

export function onHatch(changed) {
  box.addEventListener("change", () => {
    keep(STORED, [colour.value, strength.value]);
    changed();
  });
}
