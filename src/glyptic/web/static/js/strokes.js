/** Strokes as objects: picked in the picture, lit up, and weakened, hardened, resized, shifted, flipped or removed. */

import { busyWith } from "./busy.js";
import { fillBars } from "./bars.js";
import { element } from "./drawing.js";
import { get } from "./server.js";
import { session } from "./session.js";

const LEAST_DRAG = 4;
const { canvas } = session;
const overlay = document.querySelector("#overlay");

let found = [];
let chosen = new Map();
let layer = "";

const panel = () => document.querySelector("#strokes");
const name = (stroke) => stroke.place.join(" ");
const places = () => [...chosen.values()].map((stroke) => stroke.place);

function line(stroke, shift) {
  const points = stroke.line.map(([x, y]) => canvas.onStage(x + shift.x, y + shift.y)).map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`);
  return points.length > 1 ? `M${points.join("L")}` : `M${points[0]}h0.1`;
}

/** Light up what was found, the chosen ones strongly and as wide as they are. */
function draw(shift = { x: 0, y: 0 }) {
  const marks = [];
  for (const stroke of [...found].toReversed()) {
    const isChosen = chosen.has(name(stroke));
    const d = line(stroke, isChosen ? shift : { x: 0, y: 0 });
    const width = (stroke.size * canvas.scale) / canvas.density;
    if (isChosen) marks.push(element("path", { class: "stroke-body", d, "stroke-width": Math.max(2, width) }));
    marks.push(element("path", { class: isChosen ? "stroke-line chosen" : "stroke-line", d }));
  }
  overlay.replaceChildren(...marks);
}

function row(stroke) {
  const item = document.createElement("li");
  const label = document.createElement("label");
  const box = document.createElement("input");
  Object.assign(box, { type: "checkbox", checked: chosen.has(name(stroke)) });
  box.dataset.stroke = name(stroke);
  const where = stroke.place[0] < 0 ? "" : ` in part ${stroke.place[0] + 1}`;
  label.append(box, ` ${stroke.does.toLowerCase()} ${Math.round(stroke.opacity * 100)} %, ${Math.round(stroke.size)} px, no. ${stroke.place[1] + 1}${where}`);
  item.append(label);
  return item;
}

function show() {
  draw();
  if (!panel()) return;
  document.querySelector("#strokes-found").replaceChildren(...found.map(row));
  const tools = document.querySelector("#strokes-tools");
  tools.hidden = chosen.size === 0;
  document.querySelector("#strokes-says").textContent = chosen.size
    ? `${chosen.size === 1 ? "One stroke" : `${chosen.size} strokes`} chosen: all later ones stay.`
    : "Press on the picture: the strokes there light up, the newest first.";
}

/** Let go of what was picked. */
export function letGo() {
  if (!found.length && !chosen.size) return false;
  [found, chosen] = [[], new Map()];
  show();
  return true;
}

/** The deed of a press with strokes to pick: the newest there, the next one on another press, more with Shift; a drag
 * from a chosen stroke shifts all that are chosen. */
export class StrokePicking {
  constructor(event) {
    this.start = canvas.at(event);
    this.more = event.shiftKey;
    this.moved = null;
    this.pressed = this.#find();
  }

  async #find() {
    const question = new URLSearchParams({ x: this.start.x.toFixed(1), y: this.start.y.toFixed(1) });
    const answer = await get(`${session.url}strokes-at?${question}`);
    return answer.strokes;
  }

  move(event) {
    const now = canvas.at(event);
    const shift = { x: Number((now.x - this.start.x).toFixed(1)), y: Number((now.y - this.start.y).toFixed(1)) };
    if (!chosen.size || (!this.moved && Math.hypot(shift.x, shift.y) * canvas.scale < LEAST_DRAG)) return;
    this.moved = shift;
    draw(shift);
    session.draft("change-strokes", { layer: session.chosen, strokes: places(), shift: [shift.x, shift.y] });
  }

  end() { return busyWith(this.#finish()); }

  async #finish() {
    if (this.moved) {
      const { x, y } = this.moved;
      for (const stroke of chosen.values()) stroke.line = stroke.line.map(([px, py]) => [px + x, py + y]);
      await session.edit("change-strokes", { layer: session.chosen, strokes: places(), shift: [x, y] });
      draw();
      return;
    }
    try {
      this.#choose(await this.pressed);
    } catch (error) {
      session.complain(error);
    }
  }

  #choose(here) {
    layer = session.chosen;
    const same = here.map(name).join() === found.map(name).join();
    const at = here.findIndex((stroke) => chosen.has(name(stroke)));
    const next = here[same && !this.more ? (at + 1) % here.length : 0];
    if (!this.more) chosen = new Map();
    found = this.more ? [...here, ...found.filter((old) => !here.some((one) => name(one) === name(old)))] : here;
    if (next) chosen.set(name(next), next);
    show();
  }

  giveUp() {
    draw();
    session.giveUpDraft();
  }
}

const factor = (id) => Number(document.querySelector(id).value) / 100;
const changes = () => ({ strength: factor("#strokes-strength"), size: factor("#strokes-size"), hardness: factor("#strokes-hardness") });

function reset() {
  for (const [id, value] of [["#strokes-strength", 100], ["#strokes-size", 100], ["#strokes-hardness", 0]]) document.querySelector(id).value = value;
  fillBars(panel());
}

document.addEventListener("input", (event) => {
  if (!event.target.matches?.("#strokes-tools input[type=range]")) return;
  event.target.closest(".row").querySelector("output").textContent = event.target.value;
  session.draft("change-strokes", { layer: session.chosen, strokes: places(), ...changes() });
});

async function keep(more) {
  const applied = { ...changes(), ...more };
  await session.edit("change-strokes", { layer: session.chosen, strokes: places(), ...applied });
  for (const stroke of chosen.values()) {
    stroke.size *= applied.size;
    stroke.opacity = Math.min(1, stroke.opacity * applied.strength);
  }
  reset();
  show();
}

document.addEventListener("change", (event) => {
  const { target } = event;
  if (target.matches?.("#strokes-tools input[type=range]")) keep({});
  if (target.dataset?.stroke) {
    const stroke = found.find((one) => name(one) === target.dataset.stroke);
    if (target.checked) chosen.set(name(stroke), stroke);
    else chosen.delete(name(stroke));
    show();
  }
});

/** Choose the last strokes that were painted on a part, or on the grey layer. */
function chooseLast() {
  const { part, count } = panel().dataset;
  const last = Math.max(1, Math.min(Number(count), Number(document.querySelector("#strokes-last").value) || 1));
  [found, layer] = [[], session.chosen];
  chosen = new Map();
  for (let i = Number(count) - last; i < Number(count); i += 1) {
    const place = [Number(part), i];
    chosen.set(place.join(" "), { place, line: [], size: 1, opacity: 1, does: "" });
  }
  show();
}

const DEEDS = {
  last: chooseLast,
  flip: () => keep({ flip: true }),
  remove: async () => {
    const strokes = places();
    letGo();
    await session.edit("remove-strokes", { layer: session.chosen, strokes });
  },
  "let-go": letGo,
};

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#desk [data-strokes]");
  if (button) DEEDS[button.dataset.strokes]();
});

let painted = 0;
session.addEventListener("state", () => {
  const { strokes } = session.state.target;
  if (layer !== session.chosen || strokes !== painted) letGo();
  painted = strokes;
  if (panel()) show();
});
canvas.addEventListener("moved", () => { if (found.length) draw(); });
