/** The deeds of the desk's mask section that look for something in the picture: regions, the backdrop, snapping. */

import { brush } from "./brush.js";
import { working } from "./busy.js";
import { element } from "./drawing.js";
import { findRegion, startRegion } from "./regions.js";
import { post, postForm } from "./server.js";
import { session } from "./session.js";

const { canvas } = session;
const marks = document.querySelector("#marks");
const WORDS = { gap: ["gap", "Close"], spill: ["speck", "Drop"], over: ["bleeds over", ""], short: ["falls short", ""] };
const ALL = { gap: "Close all", spill: "Drop all" };
const LEAST_MARK = 9;
/** How much of the stage a place that is zoomed to takes up. */
const TAKES = 0.3;

let found = [];
let asked = { layer: "", across: 0 };
let chosen = -1;

const width = (id) => Number(document.querySelector(id).value);

/** Frames around what was found, the chosen one strong. */
function drawMarks() {
  marks.replaceChildren(...found.map(({ rect: [x, y, w, h], kind }, i) => {
    const a = canvas.onStage(x, y);
    const b = canvas.onStage(x + w, y + h);
    const grow = Math.max(3, (LEAST_MARK - (b.x - a.x)) / 2, (LEAST_MARK - (b.y - a.y)) / 2);
    return element("rect", { class: i === chosen ? `fault ${kind} chosen` : `fault ${kind}`, x: a.x - grow, y: a.y - grow, width: b.x - a.x + 2 * grow, height: b.y - a.y + 2 * grow });
  }));
}

function word(text, act) {
  const button = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: text });
  button.addEventListener("click", act);
  return button;
}

const middle = ([x, y, w, h]) => [x + w / 2, y + h / 2];
const mend = (kind, at) => working("Mending …", session.ask("areas/mend", { layer: asked.layer, across: asked.across, kind, at })).then((answer) => answer && look(asked.path, asked.across));

function zoomTo(i) {
  chosen = i;
  const { rect } = found[i];
  const scale = (Math.min(canvas.element.width, canvas.element.height) * TAKES) / Math.max(rect[2], rect[3], 1);
  canvas.showPlace(...middle(rect), Math.min(scale, 4));
  drawMarks();
}

function row(place, i) {
  const item = document.createElement("li");
  const [what, deed] = WORDS[place.kind];
  const size = place.kind in ALL ? `${Math.max(place.rect[2], place.rect[3])} px` : `${place.pixels} px along`;
  const say = word(`${what}, ${size}`, () => zoomTo(i));
  say.title = "Zoom to it";
  item.append(say);
  if (deed) item.append(word(deed, () => mend(place.kind, place.at)));
  return item;
}

function list() {
  const box = document.querySelector("#fault-list");
  if (!box) return;
  const all = Object.entries(ALL).filter(([kind]) => found.some((place) => place.kind === kind)).map(([kind, text]) => word(`${text} ${found.filter((place) => place.kind === kind).length}`, () => mend(kind, null)));
  const deeds = document.createElement("p");
  deeds.className = "deeds";
  const isOld = asked.revision !== session.state.revision;
  if (isOld) all.unshift(word("Look again: the plate has changed since", () => look(asked.path, asked.across)));
  deeds.append(...all, word("Put away", forget));
  const rows = document.createElement("ul");
  rows.append(...found.slice(0, 40).map(row));
  const none = Object.assign(document.createElement("p"), { className: "quiet", textContent: asked.path === "halos" ? "The mask keeps to every strong edge it runs along." : "No gaps and no specks of that size." });
  box.replaceChildren(...(asked.path ? [found.length ? rows : none, deeds] : []));
}

function forget() {
  found = [];
  chosen = -1;
  asked = { layer: "", across: 0, path: "" };
  list();
  drawMarks();
}

async function look(path, across) {
  asked = { layer: session.chosen, across, path, revision: session.state.revision };
  chosen = -1;
  try {
    ({ places: found } = await working(path === "gaps" ? "Looking for gaps …" : "Looking along edges …", post(`${session.url}areas/${path}`, { layer: asked.layer, across })));
  } catch (error) {
    found = [];
    asked.path = "";
    session.complain(error);
  }
  list();
  drawMarks();
}

canvas.addEventListener("moved", drawMarks);
session.addEventListener("state", ({ detail: { before } }) => {
  if (asked.layer && before.chosen !== session.chosen) forget();
  else list();
});

const DEEDS = {
  "region-new": () => {
    startRegion();
    brush.take("region");
  },
  picture: () => document.querySelector("#part-file").click(),
  backdrop: () => findRegion({ begin: "backdrop", op: "show" }, null),
  shift: () => brush.take("shift"),
  gaps: () => look("gaps", width("#gap-size")),
  halos: () => look("halos", 0),
  snap: () => working("Looking for edges …", session.ask("areas/snap", { layer: session.chosen, width: width("#snap-width") })),
};

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#desk [data-area]");
  if (!button) return;
  const part = Number(button.closest("[data-part]")?.dataset.part);
  DEEDS[button.dataset.area](part);
});

/** A grey picture of the plate's size as a part. */
async function addPicture(input) {
  const [file] = input.files;
  input.value = "";
  if (!file) return;
  const { looking } = session;
  const form = new FormData();
  form.append("picture", file);
  form.append("request", JSON.stringify({ revision: session.state.revision, layer: session.chosen, op: "show", looking }));
  try {
    session.adopt(await working(`Reading ${file.name} …`, postForm(`${session.url}areas/picture`, form)), looking);
  } catch (error) {
    session.complain(error);
  }
}

document.addEventListener("change", (event) => {
  if (event.target.id === "part-file") addPicture(event.target);
  const bar = event.target.closest?.("#desk [data-region-edge]");
  if (bar) findRegion({ edge: Number(bar.value) / 100 }, Number(bar.closest("[data-part]").dataset.part));
});

/** Whether a part is begun by one of these deeds: then it is. */
export function beginPart(kind) {
  const deed = { region: "region-new", backdrop: "backdrop", picture: "picture" }[kind];
  if (deed) DEEDS[deed]();
  return Boolean(deed);
}
