/** The Add sheet: every kind shown on this plate, searched by typing, tried on the picture before it is added. */

import { say } from "./says.js";
import { postForm, Refusal } from "./server.js";
import { session } from "./session.js";
import { keep, recall } from "./store.js";

const USED = "glyptic-used";
const MOST_USED = 3;
const PATIENCE = 110;

const sheet = document.querySelector("#add");
const says = document.querySelector("#add-says");
const search = document.querySelector("#add-search");
const trying = document.querySelector("#trying");
const hint = says.textContent;

let start = "open";
let timer = 0;
let tried = false;

const entries = (within = sheet) => [...within.querySelectorAll("[data-add]")];

function usedLast() {
  const used = recall(USED, []);
  const recent = document.querySelector("#add-recent");
  const copies = used.slice(0, MOST_USED).map((name) => entries().find((entry) => entry.dataset.add === name && !recent.contains(entry)));
  recent.querySelector(".entries").replaceChildren(...copies.filter(Boolean).map((entry) => entry.cloneNode(true)));
  recent.hidden = !copies.some(Boolean);
}

function remember(kind) {
  const used = recall(USED, []).filter((name) => name !== kind);
  keep(USED, [kind, ...used]);
}

function filter() {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const entry of entries()) {
    const text = `${entry.textContent} ${entry.dataset.says} ${entry.dataset.add}`.toLowerCase();
    entry.hidden = !words.every((word) => text.includes(word));
  }
  for (const section of sheet.querySelectorAll("section")) {
    const isRecent = section.id === "add-recent";
    section.hidden = entries(section).every((entry) => entry.hidden) || (isRecent && words.length > 0);
  }
  document.querySelector("#add-none").hidden = entries().some((entry) => !entry.hidden && !entry.closest("section").hidden);
}

/** When the sheet opens: previews of the plate as it is now, the search empty and ready. */
export function openAdd() {
  usedLast();
  search.value = "";
  filter();
  const query = new URLSearchParams({ root: session.state.root, made: session.madeBy, after: session.chosen });
  for (const image of sheet.querySelectorAll("[data-preview]")) {
    const source = `${session.url}previews/${image.dataset.preview}.jpg?${query}`;
    if (image.getAttribute("src") !== source) image.src = source;
  }
  search.focus();
}

function letGo() {
  clearTimeout(timer);
  says.textContent = hint;
  trying.hidden = true;
  if (tried) session.giveUpDraft();
  tried = false;
}

function tryOn(entry) {
  clearTimeout(timer);
  says.textContent = entry.dataset.says;
  const layer = JSON.parse(entry.dataset.sample);
  if (!layer.kind) { letGo(); says.textContent = entry.dataset.says; return; }
  timer = setTimeout(() => {
    tried = true;
    trying.textContent = `Trying ${layer.name}`;
    trying.hidden = false;
    session.draft("add-layer", { layer, after: session.chosen });
  }, PATIENCE);
}

sheet.addEventListener("pointerover", (event) => {
  const entry = event.target.closest("[data-add]");
  if (entry && !entry.contains(event.relatedTarget)) tryOn(entry);
});
sheet.addEventListener("pointerout", (event) => {
  const entry = event.target.closest("[data-add]");
  if (entry && !entry.contains(event.relatedTarget)) letGo();
});
sheet.addEventListener("focusin", (event) => { if (event.target.matches("[data-add]:focus-visible")) tryOn(event.target); });
sheet.addEventListener("focusout", (event) => { if (event.target.matches("[data-add]")) letGo(); });
document.addEventListener("panel-closed", letGo);

async function add(kind) {
  clearTimeout(timer);
  tried = false;
  document.dispatchEvent(new Event("close-panels"));
  if (kind === "picture") {
    document.querySelector("#add-picture").click();
    return;
  }
  remember(kind);
  await session.ask("layers", { kind, start, after: session.chosen });
}

async function addPicture(input) {
  const [file] = input.files;
  input.value = "";
  if (!file) return;
  const looking = session.looking;
  const form = new FormData();
  form.append("picture", file);
  form.append("request", JSON.stringify({ revision: session.state.revision, after: session.chosen, looking }));
  say(`Reading ${file.name} …`, 60);
  try {
    session.adopt(await postForm(`${session.url}pictures`, form), looking);
    remember("picture");
    say(`${file.name} lies over the picture; set its place on the desk.`);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    session.complain(error);
  }
}

const seen = () => entries().filter((entry) => !entry.hidden && !entry.closest("section").hidden);

sheet.addEventListener("keydown", (event) => {
  const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
  const at = seen().indexOf(document.activeElement);
  if (step && !(event.target === search && at < 0 && event.key !== "ArrowDown")) {
    (at + step < 0 ? search : seen()[Math.min(at + step, seen().length - 1)])?.focus();
  } else if (event.key === "Enter" && event.target === search) {
    const typed = search.value.trim().toLowerCase();
    const best = seen().find((entry) => entry.querySelector("b").textContent.toLowerCase().startsWith(typed)) ?? seen()[0];
    if (best) add(best.dataset.add);
  } else {
    return;
  }
  event.preventDefault();
  event.stopPropagation();
});
search.addEventListener("input", filter);

document.addEventListener("click", (event) => {
  const entry = event.target.closest("[data-add]");
  if (entry) add(entry.dataset.add);
  const chosen = event.target.closest("#add [data-start]");
  if (!chosen) return;
  start = chosen.dataset.start;
  for (const button of sheet.querySelectorAll("[data-start]")) button.setAttribute("aria-checked", String(button === chosen));
});
document.querySelector("#add-picture").addEventListener("change", (event) => addPicture(event.target));
