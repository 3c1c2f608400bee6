/** The hand on the picture: what a press there begins, the ring and the chip under the pointer, the wheel, two fingers. */

import { drawn, find } from "../core/dom.js";
import { Gripping } from "./handles.js";
import { Moving, Oval, Painting, Ramp, Resizing, ShiftingMask } from "./deeds.js";
import { Touches } from "./touch.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {import("../core/events.js").Deed} Deed
 */

const CHIP = { width: 66, height: 45, gap: 10 };
const NUDGE = 12;
/** CSS pixels by which arrow keys move the picture. */
const [PAN_STEP, FINE_STEP] = [60, 6];
const PER_DOUBLING = 240;
const LINE = 16;
/** @type {Record<string, [number, number]>} */
export const ARROWS = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowRight: [1, 0], ArrowLeft: [-1, 0] };
/** Hands that leave what was drawn before alone. */
const HANDLES_AWAY = new Set(["paint", "pick", "region", "frame"]);

export class Hand {
  /** @type {Deed | null} */
  #active = null;
  #spaceHeld = false;
  #resizing = false;
  /** @type {PointerEvent | null} */
  lastPointer = null;
  /** Where the last stroke ended, for a straight line from there. @type {{ layer: string, place: { x: number, y: number } } | null} */
  straightFrom = null;
  /** @type {{ x: number, y: number } | null} */
  #cross = null;
  #handBefore = "";

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.ring = find(bench.stage, "#ring", HTMLElement);
    this.chip = find(bench.stage, "#chip", HTMLElement);
    this.overlay = bench.layerOf("overlay");
    this.touches = new Touches(bench);
    bench.events.drag("#stage", (event) => this.#press(event));
    this.#followPointer();
    this.#bindKeys();
    bench.brush.addEventListener("change", () => this.#changed());
    this.#changed();
  }

  get moving() { return this.#spaceHeld || this.bench.brush.hand === "move"; }

  /** Whether a press on the picture is under way. */
  get isBusy() { return this.#active !== null; }

  #bindKeys() {
    const { keys } = this.bench;
    const held = (/** @type {boolean} */ now) => {
      this.#spaceHeld = now;
      this.#showCursor();
    };
    keys.bind("move-held", () => held(true), () => held(false));
    keys.bind("resize", () => { this.#resizing = true; }, () => { this.#resizing = false; });
    keys.bind("cross", (event) => this.#moveCross(event));
    keys.bind("pan", (event) => this.#panByKey(event));
    keys.bind("press-cross", () => this.#pressCross());
    keys.bind("shift-mask", (event) => this.#shiftByKey(event));
  }

  /** @param {PointerEvent} event */
  #press(event) {
    if (event.target instanceof Element && event.target.closest(".over-picture")) return null;
    this.bench.stage.focus({ preventScroll: true });
    const deed = this.touches.claims(event, () => this.#begin(event));
    if (!deed) return null;
    this.#active = deed;
    this.#showCursor();
    const over = (/** @type {"end" | "giveUp"} */ how) => () => {
      if (this.#active === deed) this.#active = null;
      deed[how]();
      this.#showCursor();
    };
    return { move: (one) => deed.move(one), end: over("end"), giveUp: over("giveUp") };
  }

  /** The deed of a press on the picture with what is in the hand. @param {PointerEvent} event @returns {Deed | null} */
  #begin(event) {
    const { bench } = this;
    const { brush, session } = bench;
    const { mask, masked } = session.state.target;
    if (event.target instanceof Element && event.target.closest("#handles .grip")) return new Gripping(bench, event);
    if (event.button === 1 || this.moving) return new Moving(bench);
    if (brush.hand === "paint") {
      if (this.#resizing) return new Resizing(bench, event);
      return brush.target ? new Painting(bench, event) : null;
    }
    if (brush.hand === "pick") return bench.picks.press(event);
    if (brush.hand === "frame") return bench.framing.press(event);
    if (brush.hand === "shift") return masked && mask ? new ShiftingMask(bench, event) : null;
    if (brush.ownShape) return brush.hand === "ramp" ? new Ramp(bench, event) : new Oval(bench, event);
    if (!mask) return null;
    if (brush.hand === "region") return bench.regions.press(event, (brush.sets.mask.side === 1) !== event.altKey);
    if (brush.hand === "outline") return bench.outlines.press(event, Number(brush.sets.mask.side));
    return brush.hand === "ramp" ? new Ramp(bench, event) : new Oval(bench, event);
  }

  #followPointer() {
    const { stage, canvas, brush } = this.bench;
    stage.addEventListener("pointermove", (event) => {
      this.touches.sees(event);
      this.lastPointer = event;
      this.showRing(event);
      if (!this.#active && !this.bench.comparing?.dragging) this.bench.measures.pointAt(canvas.shownAt(event), brush.forChip);
      else this.chip.hidden = true;
    });
    stage.addEventListener("pointerleave", () => {
      this.ring.hidden = true;
      this.chip.hidden = true;
      if (!this.#active) this.bench.measures.pointAt(null);
    });
    this.bench.events.on("wheel", "#stage", (event) => this.#wheel(event));
  }

  /** @param {WheelEvent} event */
  #wheel(event) {
    event.preventDefault();
    const amount = event.deltaMode === WheelEvent.DOM_DELTA_LINE ? event.deltaY * LINE : event.deltaY;
    this.bench.canvas.zoomBy(2 ** (-amount / PER_DOUBLING), event);
    this.showRing(event);
  }

  /** @param {MouseEvent} event */
  showRing(event) {
    const { brush, canvas, stage } = this.bench;
    const shown = brush.hand === "paint" && !this.#spaceHeld && brush.target;
    this.ring.hidden = !shown;
    if (!shown) return;
    const box = stage.getBoundingClientRect();
    const size = brush.set.size * canvas.zoomAt(event);
    this.ring.style.left = `${event.clientX - box.left}px`;
    this.ring.style.top = `${event.clientY - box.top}px`;
    this.ring.style.width = this.ring.style.height = `${Math.max(3, size)}px`;
    this.ring.style.setProperty("--core", `${size * brush.set.hardness}px`);
    this.#placeChip(event.clientX - box.left, event.clientY - box.top, Math.min(size / 2, box.width / 4), box);
  }

  /** The chip stands to the right of the ring, or to its left where there is no room. @param {number} x @param {number} y @param {number} radius @param {DOMRect} box */
  #placeChip(x, y, radius, box) {
    const right = x + radius + CHIP.gap;
    const fits = right + CHIP.width < box.width;
    this.chip.style.left = `${fits ? right : x - radius - CHIP.gap - CHIP.width}px`;
    this.chip.style.top = `${Math.min(Math.max(0, y - 8), box.height - CHIP.height)}px`;
  }

  #showCursor() {
    const { stage, brush } = this.bench;
    const grabbing = this.#active instanceof Moving;
    stage.style.cursor = grabbing ? "grabbing" : this.moving ? "grab" : brush.hand === "paint" && !brush.target ? "not-allowed" : "crosshair";
  }

  /** The brush, or what is in the hand, is another. */
  #changed() {
    const { brush, strokes, outlines, regions, handles, canvas, measures } = this.bench;
    this.#showCursor();
    if (brush.hand !== "pick") strokes.letGo();
    if (brush.hand !== "outline") outlines.drop();
    if (!["pick", "region"].includes(brush.hand)) this.#dropCross();
    if (brush.hand === "region") regions.draw();
    else if (this.#handBefore === "region") this.overlay.replaceChildren();
    this.#handBefore = brush.hand;
    handles.draw();
    if (this.lastPointer) {
      this.showRing(this.lastPointer);
      if (!this.#active && !this.ring.hidden) measures.pointAt(canvas.shownAt(this.lastPointer), brush.forChip);
    }
    if (!brush.forChip) this.chip.hidden = true;
  }

  /** Whether handles would be in the way of what is in the hand. */
  get hidesHandles() { return HANDLES_AWAY.has(this.bench.brush.hand); }

  #dropCross() {
    this.#cross = null;
    this.overlay.querySelector(".cross")?.remove();
  }

  /** Without a pointer, picks and scribbles are made at a cross that the arrow keys move; Enter presses there. @param {KeyboardEvent} event */
  #moveCross(event) {
    const { stage, brush, canvas, measures } = this.bench;
    if (!["pick", "region"].includes(brush.hand) || event.target !== stage) return false;
    const { clientWidth: width, clientHeight: height } = stage;
    const step = event.shiftKey ? 1 : NUDGE;
    const [dx, dy] = ARROWS[event.key];
    const from = this.#cross ?? { x: width / 2, y: height / 2 };
    const x = Math.min(width, Math.max(0, from.x + dx * step));
    const y = Math.min(height, Math.max(0, from.y + dy * step));
    this.#dropCross();
    this.#cross = { x, y };
    this.overlay.append(drawn("path", { class: "drawn cross", d: `M${x - 9} ${y}h18M${x} ${y - 9}v18` }));
    measures.pointAt(canvas.shownAt(this.#atCross({ x, y })));
    return true;
  }

  /** @param {{ x: number, y: number }} cross */
  #atCross({ x, y }) {
    const box = this.bench.stage.getBoundingClientRect();
    return new PointerEvent("pointerdown", { clientX: box.left + x, clientY: box.top + y });
  }

  #pressCross() {
    const { brush, regions, picks, outlines, session } = this.bench;
    if (brush.hand === "outline") return outlines.close(Number(brush.sets.mask.side));
    if (!this.#cross) return false;
    const event = this.#atCross(this.#cross);
    const deed = brush.hand === "region" && session.state.target.mask ? regions.press(event, brush.sets.mask.side === 1) : brush.hand === "pick" ? picks.press(event) : null;
    deed?.end();
    return deed !== null;
  }

  /** @param {KeyboardEvent} event */
  #panByKey(event) {
    const { brush, canvas, stage } = this.bench;
    if (brush.hand !== "move" || event.target !== stage) return false;
    const step = event.shiftKey ? FINE_STEP : PAN_STEP;
    const [dx, dy] = ARROWS[event.key];
    return canvas.pan(-dx * step, -dy * step);
  }

  /** @param {KeyboardEvent} event */
  #shiftByKey(event) {
    const { brush, session, stage } = this.bench;
    if (brush.hand !== "shift" || event.target !== stage) return false;
    const step = event.shiftKey ? 10 : 1;
    return session.edit("shift-mask", { layer: session.chosen, by: ARROWS[event.key].map((v) => v * step) });
  }

  /** Give up what is being drawn, or let go of the strokes that are picked; false if there is neither. */
  giveUp() { return this.bench.events.giveUp() || this.bench.outlines.drop() || this.bench.strokes.letGo(); }
}
