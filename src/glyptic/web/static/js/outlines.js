/** An outline drawn on the picture: freehand by dragging, or corner by corner, closed by a press on its start. */

import { element } from "./drawing.js";
import { session } from "./session.js";

const { canvas } = session;
const overlay = document.querySelector("#overlay");
const LEAST_DRAG = 4;
const NEAR = 9;
const APART = 3;

let corners = [];

const stageOf = ([x, y]) => canvas.onStage(x, y);
const text = (point) => {
  const { x, y } = stageOf(point);
  return `${x.toFixed(1)} ${y.toFixed(1)}`;
};

function draw(points, open) {
  if (!points.length) { overlay.replaceChildren(); return; }
  const start = stageOf(points[0]);
  overlay.replaceChildren(
    element("path", { class: "drawn", d: `M${points.map(text).join("L")}${open ? "" : "Z"}` }),
    element("circle", { class: "drawn start", cx: start.x, cy: start.y, r: 4 }),
  );
}

/** Points no nearer to each other on the screen than a few pixels. */
function thinned(points) {
  const kept = [points[0]];
  for (const point of points) {
    const [a, b] = [stageOf(kept.at(-1)), stageOf(point)];
    if (Math.hypot(a.x - b.x, a.y - b.y) >= APART) kept.push(point);
  }
  return kept;
}

async function close(points, side) {
  corners = [];
  overlay.replaceChildren();
  if (points.length < 3) return;
  const part = { kind: "outline", op: side ? "show" : "hide", points };
  await session.edit("add-part", { layer: session.chosen, part });
}

/** Give up the corners set so far; false if there are none. */
export function dropOutline() {
  if (!corners.length) return false;
  corners = [];
  overlay.replaceChildren();
  return true;
}

/** Close the corners set so far, as a press on the start does. */
export function closeOutline(side) {
  if (corners.length < 3) return false;
  close(corners, side);
  return true;
}

export class Outlining {
  constructor(event, side) {
    this.side = side;
    const at = canvas.at(event);
    this.points = [[Number(at.x.toFixed(2)), Number(at.y.toFixed(2))]];
    this.from = { x: event.clientX, y: event.clientY };
    this.free = false;
  }

  move(event) {
    this.free ||= Math.hypot(event.clientX - this.from.x, event.clientY - this.from.y) >= LEAST_DRAG;
    const at = canvas.at(event);
    this.points.push([Number(at.x.toFixed(2)), Number(at.y.toFixed(2))]);
    if (this.free) draw([...corners, ...this.points], true);
  }

  end() {
    const here = this.free ? thinned(this.points) : [this.points[0]];
    const [start, press] = [corners[0] && stageOf(corners[0]), stageOf(here.at(-1))];
    const closes = start && Math.hypot(start.x - press.x, start.y - press.y) <= NEAR;
    if (this.free && !corners.length) close(here, this.side);
    else if (closes && corners.length > 2) close(corners, this.side);
    else {
      corners = [...corners, ...here];
      draw(corners, true);
    }
  }

  giveUp() { dropOutline(); }
}

canvas.addEventListener("moved", () => { if (corners.length) draw(corners, true); });
