/** The strip: choosing, switching, weakening and reordering layers by their cards. */

import Sortable from "../vendor/sortable.esm.js";
import { fillBars } from "./bars.js";
import { session } from "./session.js";
import { keep, recall } from "./store.js";

const also = new Set();

export const chosenLayers = () => [...new Set([session.chosen, ...also])];

function mark() {
  for (const card of document.querySelectorAll("#strip [data-choose]")) {
    card.closest(".wrap").classList.toggle("also", also.has(card.dataset.choose) && card.dataset.choose !== session.chosen);
  }
}

function choose(card, event) {
  const { choose: layer } = card.dataset;
  if (event.ctrlKey || event.metaKey || event.shiftKey) {
    if (!also.delete(layer)) also.add(layer);
    mark();
    return;
  }
  also.clear();
  mark();
  if (layer !== session.chosen) session.ask("choose", { layer });
}

/** Switch layers on or off together: off if any of them is on. */
export function toggle(layers) {
  const facets = layers.map((id) => document.querySelector(`[data-show="${CSS.escape(id)}"]`)).filter(Boolean);
  if (!facets.length) return;
  const visible = !facets.some((facet) => facet.getAttribute("aria-pressed") === "true");
  session.edit("show-layers", { layers: facets.map((facet) => facet.dataset.show), visible });
}

/** Put the chosen cards into a group. */
export function group() {
  const layers = chosenLayers();
  also.clear();
  session.edit("group-layers", { layers });
}

const FOLDED = "glyptic-folded";
const folded = new Set(recall(FOLDED, []));
const foldName = (layer) => `${session.url} ${layer}`;

function drawFolds() {
  for (const tag of document.querySelectorAll("#strip [data-collapse]")) {
    const isFolded = folded.has(foldName(tag.dataset.collapse));
    tag.setAttribute("aria-expanded", String(!isFolded));
    tag.closest(".group").classList.toggle("folded", isFolded);
  }
}

document.addEventListener("click", (event) => {
  const tag = event.target.closest("#strip [data-collapse]");
  if (!tag) {
    if (event.target.closest('#desk [data-edit="group-layers"]')) group();
    return;
  }
  const name = foldName(tag.dataset.collapse);
  if (!folded.delete(name)) folded.add(name);
  keep(FOLDED, [...folded]);
  drawFolds();
});

document.addEventListener("click", (event) => {
  const facet = event.target.closest("#strip [data-show]");
  if (facet) {
    const { show } = facet.dataset;
    toggle(also.has(show) ? chosenLayers() : [show]);
    return;
  }
  const card = event.target.closest("#strip [data-choose]");
  if (card && !event.target.closest("[data-opacity]")) choose(card, event);
});

document.addEventListener("keydown", (event) => {
  const card = event.target.closest?.("#strip [data-choose]");
  if (!card || event.target !== card) return;
  if (event.key === "Enter" || event.key === " ") {
    event.preventDefault();
    choose(card, event);
  }
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (step) {
    const cards = [...document.querySelectorAll("#strip [data-choose]")];
    cards[cards.indexOf(card) + step]?.focus();
    event.preventDefault();
    event.stopPropagation();
  }
}, true);

document.addEventListener("input", (event) => {
  const layer = event.target.dataset.opacity;
  if (!layer) return;
  event.target.nextElementSibling.firstElementChild.textContent = `${event.target.value} %`;
  session.draftSet("opacity", Number(event.target.value) / 100, layer);
});
document.addEventListener("change", (event) => {
  const layer = event.target.dataset.opacity;
  if (layer) session.set("opacity", Number(event.target.value) / 100, layer);
});

function dropped({ item, to }) {
  let next = item.nextElementSibling;
  while (next && !next.dataset.layer) next = next.nextElementSibling;
  session.edit("move-layer", { layer: item.dataset.layer, before: next?.dataset.layer ?? null, into: to.dataset.row || null });
}

const MASK = "text/x-glyptic-mask";
const takes = (event) => (event.dataTransfer?.types.includes(MASK) ? event.target.closest?.("#strip [data-choose]") : null);

function lightUp(card) {
  for (const lit of document.querySelectorAll("#strip .takes-mask")) lit.classList.toggle("takes-mask", lit === card);
  card?.classList.add("takes-mask");
}

document.addEventListener("dragstart", (event) => {
  const from = event.target.dataset?.maskOf;
  if (from) event.dataTransfer.setData(MASK, from);
});
document.addEventListener("dragover", (event) => {
  if (!event.dataTransfer?.types.includes(MASK)) return;
  const card = takes(event);
  lightUp(card);
  if (!card) return;
  event.preventDefault();
  event.dataTransfer.dropEffect = event.ctrlKey ? "copy" : "move";
});
document.addEventListener("dragend", () => lightUp(null));
document.addEventListener("drop", (event) => {
  const card = takes(event);
  lightUp(null);
  if (!card) return;
  event.preventDefault();
  session.edit("take-mask", { layer: card.dataset.choose, from: event.dataTransfer.getData(MASK), copy: event.ctrlKey });
});

let rows = [];

/** After the strip was drawn anew. */
export function freshStrip() {
  for (const row of rows) row.destroy();
  rows = [...document.querySelectorAll("#strip [data-row]")].map(
    (row) => new Sortable(row, {
      group: "layers", animation: 120, draggable: "[data-layer]", filter: "input, .facet, .mask-grip", preventOnFilter: false,
      onMove: ({ related, willInsertAfter }) => !(related.previousElementSibling === null && related.parentElement.dataset.row === "" && !willInsertAfter),
      onEnd: dropped,
    }),
  );
  for (const grip of document.querySelectorAll("#strip .mask-grip")) grip.draggable = true;
  for (const id of also) if (!document.querySelector(`[data-choose="${CSS.escape(id)}"]`)) also.delete(id);
  mark();
  drawFolds();
  fillBars(document.querySelector("#strip"));
}

/** Bring the chosen card into sight. */
export function showChosen() {
  document.querySelector(`#card-${CSS.escape(session.chosen)}`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
}
