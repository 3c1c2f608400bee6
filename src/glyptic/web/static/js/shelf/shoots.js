/** Shoots at the side of the shelf: made, named, let go, filled by dragging; and the names of the marks. */

import { find, make, maybe } from "../core/dom.js";
import { hush, say } from "../core/says.js";

/** @typedef {import("./view.js").View} View */
/** @typedef {import("./choosing.js").Choosing} Choosing */

const MARKS = 4;
const UNDONE_FOR = 30;
const DRAGGED = "text/x-plates";

/** @param {View} view @param {Choosing} choosing */
export function shoots(view, choosing) {
  const { root } = view;

  /** @param {HTMLInputElement} input */
  async function make_(input) {
    const plates = input.dataset.plates === "chosen" ? choosing.plates : [];
    const answer = input.value.trim() && await view.deed("/shoots", { name: input.value, plates });
    if (!answer) return;
    hush();
    await view.look(answer.url);
  }

  /** @param {string} shoot */
  async function dissolve(shoot) {
    const answer = await view.deed(`/shoots/${shoot}/dissolve`);
    if (!answer) return;
    const { name, plates, url } = answer;
    await view.look(url);
    say(`‘${name}’ is let go; its plates stay on the shelf.`, UNDONE_FOR, { words: "Make it again", press: () => { view.deed("/shoots", { name, plates }); } });
  }

  /** The marks get their names in place of the button. @param {HTMLElement} button */
  function nameMarks(button) {
    const names = JSON.parse(button.dataset.nameMarks ?? "[]");
    const fields = Array.from({ length: MARKS }, (_, i) => make("input", { type: "text", maxLength: 24, value: names[i] ?? "", placeholder: `mark ${i + 1}`, "aria-label": `Name of mark ${i + 1}`, autocomplete: "off" }));
    const form = make("form", { className: "rail-form" }, ...fields, make("button", { type: "submit", className: "quiet-button", textContent: "Keep" }));
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      view.deed("/plates/marks", { names: fields.map(({ value }) => value.trim()) });
    });
    button.replaceWith(form);
    fields[0]?.focus();
  }

  root.addEventListener("submit", (event) => {
    if (!(event.target instanceof HTMLFormElement) || event.target.id !== "new-shoot") return;
    event.preventDefault();
    make_(find(event.target, "input", HTMLInputElement));
  });
  root.addEventListener("click", ({ target }) => {
    if (!(target instanceof HTMLElement)) return;
    if (target.dataset.dissolve) dissolve(target.dataset.dissolve);
    else if (target.dataset.nameMarks) nameMarks(target);
  });
  root.addEventListener("change", ({ target }) => {
    if (target instanceof HTMLInputElement && target.dataset.renameShoot) view.deed(`/shoots/${target.dataset.renameShoot}/name`, { name: target.value });
  });
  dragging(view, choosing);
}

/** Cards are dragged onto the name of a shoot, all that are chosen with one that is. @param {View} view @param {Choosing} choosing */
function dragging({ root }, choosing) {
  root.addEventListener("pointerdown", ({ target }) => {
    const card = target instanceof HTMLElement ? target.closest(".plate-card") : null;
    if (card instanceof HTMLElement) card.draggable = target instanceof HTMLElement && target.closest(".picture") !== null;
  });
  root.addEventListener("dragstart", (event) => {
    const card = event.target instanceof HTMLElement ? event.target.closest(".plate-card") : null;
    if (!(card instanceof HTMLElement)) return;
    const number = Number(card.dataset.plate);
    const plates = choosing.plates.includes(number) ? choosing.plates : [number];
    event.dataTransfer?.setData(DRAGGED, JSON.stringify(plates));
  });
  const over = (/** @type {DragEvent} */ event) => {
    const line = event.target instanceof Element && event.dataTransfer?.types.includes(DRAGGED) ? event.target.closest("[data-shoot]") : null;
    maybe(root, ".drop-into", HTMLElement)?.classList.remove("drop-into");
    return line instanceof HTMLElement && line.closest(".rail") ? line : null;
  };
  root.addEventListener("dragover", (event) => {
    const line = over(event);
    if (!line) return;
    event.preventDefault();
    line.classList.add("drop-into");
  });
  root.addEventListener("drop", (event) => {
    const line = over(event);
    if (!line) return;
    event.preventDefault();
    event.stopPropagation();
    choosing.view.deed("/plates/gather", { plates: JSON.parse(event.dataTransfer?.getData(DRAGGED) ?? "[]"), shoot: Number(line.dataset.shoot) });
  });
}
