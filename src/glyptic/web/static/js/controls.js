/** The desk's controls: each names the field it sets; dragging shows, letting go keeps. */

import { fillBars } from "./bars.js";
import { session } from "./session.js";

const NEUTRAL_WINDOW = { low: 0, high: 1 };

const rgb = (hex) => [1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255);

function stopsOf(box) {
  return [...box.querySelectorAll(".stop:not(.stop-head)")].map((row) => ({
    at: Number(row.querySelector('[data-of="at"]').value) / 100,
    colour: rgb(row.querySelector('[data-of="colour"]').value),
    alpha: Number(row.querySelector('[data-of="alpha"]').value) / 100,
  }));
}

/** How each sort of control is read; undefined for a value that is not whole yet. */
const READ = {
  number: (input) => (input.value === "" ? undefined : Number(input.value) / Number(input.dataset.factor || 1)),
  text: (input) => input.value,
  toggle: (input) => input.checked,
  nullable: (input) => (input.checked ? NEUTRAL_WINDOW : null),
  colour: (input) => rgb(input.value),
  pair: (box) => [...box.querySelectorAll("input")].map((input) => Number(input.value)),
  stops: stopsOf,
};

const holder = (target) => target.closest("[data-field]");

/** Bring the other control of the same setting in line: the bar with the number, or the number with the bar. */
export function mirror(input) {
  const row = input.closest(".row");
  for (const other of row?.querySelectorAll(`[data-field="${CSS.escape(input.dataset.field)}"]`) ?? []) {
    if (other !== input) other.value = Number(input.value).toFixed(2).replace(/\.?0+$/, "");
  }
  if (row) fillBars(row);
}

document.addEventListener("input", (event) => {
  const control = event.target.closest("#desk") && holder(event.target);
  if (!control || event.target.type === "number" || control.dataset.as === "text") return;
  const value = READ[control.dataset.as](control);
  if (control.dataset.as === "number") mirror(control);
  if (value !== undefined) session.draftSet(control.dataset.field, value);
});

document.addEventListener("change", (event) => {
  const control = event.target.closest("#desk") && holder(event.target);
  if (!control) return;
  const value = READ[control.dataset.as](control);
  if (value !== undefined) session.set(control.dataset.field, value);
});

const DEEDS = {
  lock: (button) => session.set("locked", button.dataset.value === "true"),
  "duplicate-layers": () => session.edit("duplicate-layers", { layers: [session.chosen] }),
  "remove-layers": () => session.edit("remove-layers", { layers: [session.chosen] }),
  "ungroup-anyway": () => session.edit("ungroup-layer", { layer: session.chosen, anyway: true }),
  "ungroup-layer": () => session.edit("ungroup-layer", { layer: session.chosen }),
  "add-mask": (button) => session.edit("add-mask", { layer: session.chosen, start: button.dataset.start }),
  "unlink-mask": () => session.edit("unlink-mask", { layer: session.chosen }),
  "remove-mask": () => session.edit("remove-mask", { layer: session.chosen }),
  "move-up": () => moveChosen(1),
  "move-down": () => moveChosen(-1),
};

/** Move the chosen layer one place among its neighbours: 1 later, -1 earlier. */
export function moveChosen(by) {
  const slot = document.querySelector(`#card-${CSS.escape(session.chosen)}`);
  const row = slot?.parentElement;
  if (!row?.dataset || row.dataset.row === undefined) return;
  const places = [...row.children].filter((child) => child.dataset.layer);
  const at = places.indexOf(slot);
  const target = at + by;
  const least = row.dataset.row === "" ? 1 : 0;
  if (at < least || target < least || target >= places.length) return;
  const before = by > 0 ? places[target + 1] : places[target];
  session.edit("move-layer", { layer: session.chosen, before: before?.dataset.layer ?? null, into: row.dataset.row || null });
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("#desk button");
  if (!button) return;
  const part = Number(button.closest("[data-part]")?.dataset.part);
  if (button.dataset.edit in DEEDS) DEEDS[button.dataset.edit](button);
  else if (button.dataset.partEnabled) {
    event.preventDefault();
    session.set(`mask.parts[${part}].enabled`, button.dataset.partEnabled === "true");
  } else if (button.dataset.partRemove !== undefined) session.edit("remove-part", { layer: session.chosen, part });
  else if (button.dataset.partMove !== undefined) session.edit("move-part", { layer: session.chosen, part, to: Number(button.dataset.partMove) });
  else if (button.dataset.colourDrop !== undefined) dropColour(button);
  else if (button.dataset.stopAdd !== undefined) changeStops(button, (stops) => [...stops.slice(0, -1), between(stops.at(-2), stops.at(-1)), stops.at(-1)]);
  else if (button.dataset.stopRemove !== undefined) changeStops(button, (stops) => stops.filter((_, i) => i !== Number(button.dataset.stopRemove)));
});

function dropColour(button) {
  const { colours, values } = button.closest("[data-colours]").dataset;
  session.set(colours, JSON.parse(values).toSpliced(Number(button.dataset.colourDrop), 1));
}

function changeStops(button, change) {
  const box = button.closest(".stops");
  session.set(box.dataset.field, change(stopsOf(box)));
}

const between = (a, b) => ({
  at: (a.at + b.at) / 2, alpha: (a.alpha + b.alpha) / 2, colour: a.colour.map((v, i) => (v + b.colour[i]) / 2),
});

/** Tabs inside the desk: which panel of a kind's settings is shown, remembered while the page is open. */
const tabs = {};

export function currentTab(kind) { return tabs[kind]; }

function showTab(bar) {
  const kind = bar.dataset.tabs;
  const names = [...bar.querySelectorAll("[data-tab]")].map((tab) => tab.dataset.tab);
  if (!names.includes(tabs[kind])) [tabs[kind]] = names;
  for (const tab of bar.querySelectorAll("[data-tab]")) tab.setAttribute("aria-selected", String(tab.dataset.tab === tabs[kind]));
  for (const panel of document.querySelectorAll("#desk [data-panel]")) panel.hidden = panel.dataset.panel !== tabs[kind];
  document.dispatchEvent(new CustomEvent("tab", { detail: kind }));
}

document.addEventListener("click", (event) => {
  const tab = event.target.closest("#desk [data-tab]");
  if (!tab) return;
  const bar = tab.closest("[data-tabs]");
  tabs[bar.dataset.tabs] = tab.dataset.tab;
  showTab(bar);
});

let deskOf = "";

/** After the desk was drawn anew; another layer opens on the tab where something was set. */
export function freshDesk() {
  fillBars();
  const bar = document.querySelector("#desk [data-tabs]");
  const { layer } = document.querySelector("#desk").dataset;
  if (bar && layer !== deskOf) tabs[bar.dataset.tabs] = bar.dataset.first;
  deskOf = layer;
  if (bar) showTab(bar);
}
