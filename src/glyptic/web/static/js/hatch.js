/** The hatch over a mask: its colour and how strongly it covers, kept in this browser. */

const STORED = "glyptic-hatch";
const box = document.querySelector("#hatch");
const [colour, strength] = box.querySelectorAll("input");
const stored = JSON.parse(localStorage.getItem(STORED) ?? "null");
if (stored) [colour.value, strength.value] = stored;

/** [r, g, b, strength], each 0..1. */
export const hatch = () => [...[1, 3, 5].map((at) => Number.parseInt(colour.value.slice(at, at + 2), 16) / 255), Number(strength.value) / 100];

/** Show the controls while a hatch is on screen; `changed` is told when it is another. */
export function showHatch(shown) { box.hidden = !shown; }

export function onHatch(changed) {
  box.addEventListener("change", () => {
    localStorage.setItem(STORED, JSON.stringify([colour.value, strength.value]));
    changed();
  });
}
