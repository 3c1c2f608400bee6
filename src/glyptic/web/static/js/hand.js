/** The hand on the picture: move, paint, and the shapes that are drawn with it. */

import { brush } from "./brush.js";
import { busyWith } from "./busy.js";
import { element } from "./drawing.js";
import { Gripping, drawHandles } from "./handles.js";
import { pointAt } from "./measures.js";
import { Outlining, dropOutline } from "./outlines.js";
import { Stroke } from "./painting.js";
import { RECORDINGS, play } from "./practice.js";
import { Picking, arm, pickInHand } from "./picks.js";
import { Scribbling, drawScribbles } from "./regions.js";
import { session } from "./session.js";
import { StrokePicking, letGo } from "./strokes.js";

const stage = document.querySelector("#stage");
const overlay = document.querySelector("#overlay");
const ring = document.querySelector("#ring");
const chip = document.querySelector("#chip");
const CHIP = { width: 66, height: 45, gap: 10 };
const { canvas } = session;
const LEAST_DRAG = 4;

let active = null;
let spaceHeld = false;
let last = null;

export const lastPointer = () => last;
export function holdSpace(held) {
  spaceHeld = held;
  cursor();
}

const moving = () => spaceHeld || brush.hand === "move";

let resizing = false;
let straightFrom = null;

/** While a key is held the brush is sized by dragging across, and hardened by dragging up and down. */
export function holdResize(held) { resizing = held; }

const PER_PIXEL = 1.008;
const HARD_PER_PIXEL = 0.005;

class Resizing {
  constructor(event) {
    this.from = { x: event.clientX, y: event.clientY, size: brush.set.size, hardness: brush.set.hardness };
    this.event = event;
  }

  move(event) {
    const { x, y, size, hardness } = this.from;
    brush.change({ size: Math.round(size * PER_PIXEL ** (event.clientX - x)), hardness: hardness + (y - event.clientY) * HARD_PER_PIXEL });
  }

  end() {}

  giveUp() { brush.change({ size: this.from.size, hardness: this.from.hardness }); }
}

class Moving {
  move(event) { canvas.pan(event.movementX, event.movementY); }
  end() {}
  giveUp() {}
}

class Painting {
  constructor(event) {
    this.stroke = new Stroke(event.pointerType === "pen");
    const here = canvas.at(event);
    if (event.shiftKey && straightFrom?.layer === session.chosen) this.stroke.start(straightFrom.place);
    this.stroke.add(event);
    this.last = here;
  }
  move(event) {
    this.stroke.add(event);
    this.last = canvas.at(event);
  }
  end() {
    straightFrom = { layer: session.chosen, place: this.last };
    this.stroke.end();
  }
  giveUp() { this.stroke.giveUp(); }
}

const round = (v) => Number(v.toFixed(2));

/** A shape drawn by pressing and dragging: shown live, kept when the hand lifts. */
class Shape {
  constructor(event) {
    this.start = canvas.at(event);
    this.edit = null;
  }

  move(event) {
    const now = canvas.at(event);
    const size = (Math.hypot(now.x - this.start.x, now.y - this.start.y) * canvas.scale) / canvas.density;
    if (size < LEAST_DRAG) return;
    this.draw(now);
    this.edit = this.made(now);
    session.draft(...this.edit);
  }

  end() {
    overlay.replaceChildren();
    if (this.edit) session.edit(...this.edit);
  }

  giveUp() {
    overlay.replaceChildren();
    session.refresh();
  }

  part(part) {
    const op = brush.sets.mask.side ? "show" : "hide";
    return ["add-part", { layer: session.chosen, part: { op, ...part } }];
  }

  settings(values) { return ["set", { layer: session.chosen, field: "settings", value: values }]; }
}

class Ramp extends Shape {
  draw(now) {
    const a = canvas.onStage(this.start.x, this.start.y);
    const b = canvas.onStage(now.x, now.y);
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    const across = { x: (-(b.y - a.y) / length) * 60, y: ((b.x - a.x) / length) * 60 };
    const bar = (p) => element("line", { class: "drawn", x1: p.x - across.x, y1: p.y - across.y, x2: p.x + across.x, y2: p.y + across.y });
    overlay.replaceChildren(bar(a), bar(b), element("line", { class: "drawn faint", x1: a.x, y1: a.y, x2: b.x, y2: b.y }));
  }

  made(now) {
    const ends = { from: [round(this.start.x), round(this.start.y)], to: [round(now.x), round(now.y)] };
    return session.state.target.kind === "gradient" ? this.settings(ends) : this.part({ kind: "ramp", ...ends });
  }
}

class Oval extends Shape {
  radii(now) { return [Math.max(1, Math.abs(now.x - this.start.x)), Math.max(1, Math.abs(now.y - this.start.y))]; }

  draw(now) {
    const [rx, ry] = this.radii(now).map((r) => (r * canvas.scale) / canvas.density);
    const c = canvas.onStage(this.start.x, this.start.y);
    overlay.replaceChildren(
      element("ellipse", { class: "drawn", cx: c.x, cy: c.y, rx, ry }),
      element("ellipse", { class: "drawn faint", cx: c.x, cy: c.y, rx: rx / 2, ry: ry / 2 }),
    );
  }

  made(now) {
    const shape = { centre: [round(this.start.x), round(this.start.y)], radii: this.radii(now).map(round) };
    return session.state.target.kind === "vignette" ? this.settings(shape) : this.part({ kind: "oval", softness: 0.5, ...shape });
  }
}

/** The mask taken along with the hand; what looks at the picture stays. */
class ShiftingMask {
  constructor(event) {
    this.from = canvas.at(event);
    this.by = [0, 0];
  }

  move(event) {
    const now = canvas.at(event);
    this.by = [Math.round(now.x - this.from.x), Math.round(now.y - this.from.y)];
    session.draft("shift-mask", { layer: session.chosen, by: this.by });
  }

  end() { if (this.by.some(Boolean)) session.edit("shift-mask", { layer: session.chosen, by: this.by }); }

  giveUp() { session.giveUpDraft(); }
}

const SHAPES = { ramp: [Ramp, "gradient"], oval: [Oval, "vignette"] };

function begin(event) {
  if (event.target.closest?.("#handles .grip")) return new Gripping(event);
  if (event.button === 1 || moving()) return new Moving();
  if (resizing && brush.hand === "paint") return new Resizing(event);
  if (brush.hand === "paint") return brush.target ? new Painting(event) : null;
  if (brush.hand === "pick") {
    const pick = pickInHand();
    if (pick?.name === "strokes") return new StrokePicking(event);
    return pick ? new Picking(event, canvas.at(event), pick) : null;
  }
  if (brush.hand === "shift") return session.state.target.masked && session.state.target.mask ? new ShiftingMask(event) : null;
  if (brush.hand === "region") return session.state.target.mask ? new Scribbling(event, (brush.sets.mask.side === 1) !== event.altKey) : null;
  if (brush.hand === "outline") return session.state.target.mask ? new Outlining(event, brush.sets.mask.side) : null;
  const [Made, own] = SHAPES[brush.hand];
  const { mask, kind } = session.state.target;
  return mask || kind === own ? new Made(event) : null;
}

stage.addEventListener("pointerdown", (event) => {
  if (active || event.button > 1) return;
  stage.focus({ preventScroll: true });
  const made = begin(event);
  if (!made) return;
  event.preventDefault();
  if (event.isTrusted) stage.setPointerCapture(event.pointerId);
  active = { pointer: event.pointerId, deed: made };
  cursor();
});

stage.addEventListener("pointermove", (event) => {
  if (active && active.pointer !== event.pointerId) return;
  last = event;
  if (active?.pointer === event.pointerId) active.deed.move(event);
  showRing(event);
  if (!active) pointAt(canvas.at(event), brush.forChip);
  else chip.hidden = true;
});

function finish(event, how) {
  if (active?.pointer !== event.pointerId) return;
  const { deed } = active;
  active = null;
  deed[how]();
  cursor();
}
stage.addEventListener("pointerup", (event) => finish(event, "end"));
for (const lost of ["pointercancel", "lostpointercapture"]) stage.addEventListener(lost, (event) => finish(event, "end"));
stage.addEventListener("pointerleave", () => {
  ring.hidden = true;
  chip.hidden = true;
  if (!active) pointAt(null);
});

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("#desk [data-pick]");
  if (!button) return;
  arm(button.dataset.pick);
  brush.take("pick");
});

/** The practice pen plays in the middle of the stage, with whatever is in the hand. */
document.querySelector("#practice-play").addEventListener("click", () => {
  const { left, top, width, height } = stage.getBoundingClientRect();
  const box = { left: left + width * 0.35, top: top + height * 0.35, width: width * 0.3, height: height * 0.3 };
  busyWith(play(stage, RECORDINGS[document.querySelector("#pressure [data-practice]").value], box));
});

const NUDGE = 12;
let cross = null;

/** Without a pointer, picks and scribbles are made at a cross that the arrow keys move; Enter presses there. */
export function moveCross(dx, dy, fine) {
  const { clientWidth, clientHeight } = stage;
  const step = fine ? 1 : NUDGE;
  cross ??= { x: clientWidth / 2, y: clientHeight / 2 };
  cross = { x: Math.min(clientWidth, Math.max(0, cross.x + dx * step)), y: Math.min(clientHeight, Math.max(0, cross.y + dy * step)) };
  overlay.querySelector(".cross")?.remove();
  overlay.append(element("path", { class: "drawn cross", d: `M${cross.x - 9} ${cross.y}h18M${cross.x} ${cross.y - 9}v18` }));
  pointAt(canvas.at(atCross()), undefined);
}

function atCross() {
  const box = stage.getBoundingClientRect();
  return { clientX: box.left + cross.x, clientY: box.top + cross.y, shiftKey: false };
}

export function pressCross() {
  if (!cross) return false;
  const event = atCross();
  if (brush.hand === "region" && session.state.target.mask) {
    new Scribbling(event, brush.sets.mask.side === 1).end();
    return true;
  }
  const pick = pickInHand();
  if (!pick || brush.hand !== "pick") return false;
  const deed = pick.name === "strokes" ? new StrokePicking(event) : new Picking(event, canvas.at(event), pick);
  deed.end();
  return true;
}

/** Give up what is being drawn, or let go of the strokes that are picked; false if there is neither. */
export function giveUp() {
  if (!active) return dropOutline() || letGo();
  const { deed } = active;
  active = null;
  deed.giveUp();
  cursor();
  return true;
}

stage.addEventListener("wheel", (event) => {
  event.preventDefault();
  const box = stage.getBoundingClientRect();
  const amount = event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY;
  const factor = 2 ** (-amount / 240);
  canvas.zoomAt((event.clientX - box.left) * canvas.density, (event.clientY - box.top) * canvas.density, canvas.scale * factor);
  showRing(event);
}, { passive: false });

function showRing(event) {
  const shown = brush.hand === "paint" && !spaceHeld && brush.target;
  ring.hidden = !shown;
  if (!shown) return;
  const box = stage.getBoundingClientRect();
  const size = (brush.set.size * canvas.scale) / canvas.density;
  ring.style.left = `${event.clientX - box.left}px`;
  ring.style.top = `${event.clientY - box.top}px`;
  ring.style.width = ring.style.height = `${Math.max(3, size)}px`;
  ring.style.setProperty("--core", `${size * brush.set.hardness}px`);
  placeChip(event.clientX - box.left, event.clientY - box.top, Math.min(size / 2, box.width / 4), box);
}

/** The chip stands to the right of the ring, or to its left where there is no room. */
function placeChip(x, y, radius, box) {
  const right = x + radius + CHIP.gap;
  const fits = right + CHIP.width < box.width;
  chip.style.left = `${fits ? right : x - radius - CHIP.gap - CHIP.width}px`;
  chip.style.top = `${Math.min(Math.max(0, y - 8), box.height - CHIP.height)}px`;
}

function cursor() {
  const grabbing = active?.deed instanceof Moving;
  stage.style.cursor = grabbing ? "grabbing" : moving() ? "grab" : brush.hand === "paint" && !brush.target ? "not-allowed" : "crosshair";
}

let before = brush.hand;
const redrawScribbles = () => { if (brush.hand === "region" && !active) drawScribbles(); };
canvas.addEventListener("moved", redrawScribbles);
session.addEventListener("state", redrawScribbles);

brush.addEventListener("change", () => {
  cursor();
  if (brush.hand !== "pick") letGo();
  if (brush.hand !== "outline") dropOutline();
  if (!["pick", "region"].includes(brush.hand) && cross) {
    cross = null;
    overlay.querySelector(".cross")?.remove();
  }
  if (brush.hand === "region") drawScribbles();
  else if (before === "region") overlay.replaceChildren();
  before = brush.hand;
  drawHandles(["paint", "pick", "region"].includes(brush.hand));
  if (last) {
    showRing(last);
    if (!active && !ring.hidden) pointAt(canvas.at(last), brush.forChip);
  }
  if (!brush.forChip) chip.hidden = true;
});
cursor();
