/** The keys of the bench. They work wherever no text is being typed. */

import { brush } from "./brush.js";
import { moveChosen } from "./controls.js";
import { giveUp, holdResize, holdSpace, lastPointer, moveCross, pressCross } from "./hand.js";
import { closeOutline } from "./outlines.js";
import { pickInHand } from "./picks.js";
import { closePanels, openPanel } from "./panels.js";
import { session } from "./session.js";
import { chosenLayers, group, toggle } from "./strip.js";

const HANDS = ["move", "paint", "ramp", "oval", "outline", "region", "pick"];
let viewBefore = null;

const grown = (size, up) => Math.max(1, up ? Math.max(size + 1, Math.round(size * 1.12)) : Math.min(size - 1, Math.round(size / 1.12)));

const ARROWS = {
  ArrowUp: (shift) => (shift ? { hardness: brush.set.hardness + 0.05 } : { size: grown(brush.set.size, true) }),
  ArrowDown: (shift) => (shift ? { hardness: brush.set.hardness - 0.05 } : { size: grown(brush.set.size, false) }),
  ArrowRight: (shift) => (shift ? { flow: brush.set.flow + 0.05 } : { opacity: brush.set.opacity + 0.05 }),
  ArrowLeft: (shift) => (shift ? { flow: brush.set.flow - 0.05 } : { opacity: brush.set.opacity - 0.05 }),
};

const CROSS = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] };

function nextView() {
  const buttons = [...document.querySelectorAll("[data-view]:not(:disabled)")];
  const at = buttons.findIndex((button) => button.dataset.view === session.view);
  session.setView(buttons[(at + 1) % buttons.length].dataset.view);
}

function holdBefore() {
  if (viewBefore !== null) return;
  viewBefore = session.view;
  session.setView("before");
}

let everywhere = false;

/** Show the chosen layer as if its mask were open, until the key is let go. */
function holdEverywhere() {
  if (everywhere || !session.state.target.masked) return;
  everywhere = true;
  session.draft("set", { layer: session.chosen, field: "mask.enabled", value: false }, "finished");
}

function letGoKeys(key) {
  if (everywhere && (!key || key === "e")) {
    everywhere = false;
    session.giveUpDraft();
  }
  if (!key || key === "d") holdResize(false);
}

const PLAIN = {
  f: () => session.canvas.fit(),
  g: () => session.canvas.oneToOne(lastPointer()),
  s: () => brush.change({ side: brush.set.side === 1 ? 0 : 1 }),
  v: nextView,
  h: holdBefore,
  e: holdEverywhere,
  d: () => holdResize(true),
  Enter: () => pressCross() || closeOutline(brush.sets.mask.side),
  q: () => toggle(chosenLayers()),
  a: () => openPanel("add"),
  "?": () => document.querySelector("#keys").showModal(),
  Delete: () => session.edit("remove-layers", { layers: chosenLayers() }),
  Escape: () => giveUp() || closePanels(),
};

function withControl(event) {
  const key = event.key.toLowerCase();
  if (key === "z") return () => session.ask(event.shiftKey ? "redo" : "undo");
  if (key === "g") return group;
  if (key === "[") return () => moveChosen(-1);
  if (key === "]") return () => moveChosen(1);
  return null;
}

/** A number or name that was typed is kept by Enter, and the keys work on the picture again. */
function returnToPicture(input) {
  input.blur();
  document.querySelector("#stage").focus({ preventScroll: true });
}

function typing(target) {
  return target.closest?.('input:not([type="range"]):not([type="checkbox"]), textarea, select, dialog') !== null;
}

/** Enter belongs to what has the focus, unless that is the picture. */
const isOthers = (event) => event.key === "Enter" && !event.target.matches("#stage, body");

function deedFor(event) {
  if (isOthers(event)) return null;
  if (event.ctrlKey || event.metaKey) return withControl(event);
  if (event.altKey) return null;
  if (event.key === " ") return event.target.closest("button, summary, a") ? null : () => holdSpace(true);
  if (event.key === "7" && !pickInHand()) return null;
  if (HANDS[Number(event.key) - 1]) return () => brush.take(HANDS[Number(event.key) - 1]);
  if (ARROWS[event.key] && ["pick", "region"].includes(brush.hand) && event.target.matches("#stage, body")) {
    return () => moveCross(...CROSS[event.key], event.shiftKey);
  }
  if (CROSS[event.key] && brush.hand === "shift" && event.target.matches("#stage, body")) {
    const step = event.shiftKey ? 10 : 1;
    return () => session.edit("shift-mask", { layer: session.chosen, by: CROSS[event.key].map((v) => v * step) });
  }
  if (ARROWS[event.key]) {
    return event.target.matches('input[type="range"]') ? null : () => brush.change(ARROWS[event.key](event.shiftKey));
  }
  return PLAIN[event.key] ?? PLAIN[event.key.toLowerCase()];
}

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && typing(event.target)) {
    event.target.blur();
    return;
  }
  if (typing(event.target)) {
    if (event.key === "Enter" && event.target.matches("#bench input")) returnToPicture(event.target);
    return;
  }
  const deed = deedFor(event);
  if (!deed) return;
  event.preventDefault();
  if (event.repeat && !ARROWS[event.key] && !(event.ctrlKey || event.metaKey)) return;
  deed();
});

document.addEventListener("keyup", (event) => {
  if (event.key === " ") holdSpace(false);
  letGoKeys(event.key.toLowerCase());
  if (event.key.toLowerCase() === "h" && viewBefore !== null) {
    session.setView(viewBefore);
    viewBefore = null;
  }
});
globalThis.addEventListener("blur", () => {
  letGoKeys();
  holdSpace(false);
  if (viewBefore !== null) {
    session.setView(viewBefore);
    viewBefore = null;
  }
});
