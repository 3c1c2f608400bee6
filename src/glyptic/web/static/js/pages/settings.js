/** The settings page: a pad to try the pen on, by hand or played by the practice pen. */

import { find } from "../core/dom.js";
import { Events } from "../core/events.js";
import { Pen, Reading } from "../hand/pen.js";
import { penPanel } from "../hand/pen_panel.js";
import { RECORDINGS, play } from "../hand/practice.js";

/** @typedef {import("../hand/pen.js").Told} Told */

const WIDEST = 34;
const LEAST = 0.25;
/** Lightness of the line where the pen does next to nothing, and where it does all it can. */
const PALEST = 88;
const DARKEST = 25;

const page = find(document, "main", HTMLElement);
const events = new Events(page);
const pen = new Pen();
penPanel(page, events, pen);

class Pad {
  /** @type {Reading | null} */
  #reading = null;
  /** @type {{ x: number, y: number } | null} */
  #last = null;

  /** @param {HTMLCanvasElement} canvas */
  constructor(canvas) {
    this.canvas = canvas;
    this.paper = /** @type {CanvasRenderingContext2D} */ (canvas.getContext("2d"));
    this.told = /** @type {const} */ (["pressure", "tilt", "speed"]).map((what) => ({ what, place: find(page, `[data-told="${what}"]`, HTMLElement) }));
    events.drag("#pad", (event) => this.#press(event));
    this.clear();
  }

  clear() {
    this.canvas.width = this.canvas.clientWidth;
    this.canvas.height = this.canvas.clientHeight;
  }

  /** @param {PointerEvent} event */
  #press(event) {
    this.#reading = new Reading(pen, event.pointerType === "pen");
    this.#last = null;
    this.#draw(event);
    return { move: (/** @type {PointerEvent} */ one) => this.#draw(one), end() {}, giveUp() {} };
  }

  /** By what a measure is multiplied, as the stroke's dabs are. @param {string} measure @param {Told} told */
  #factor(measure, { pressure, tilt, speed }) {
    const drives = pen.drivesFor(this.#reading?.isPen ?? false);
    return (drives.pressure[measure] ? pressure : 1) * (drives.tilt[measure] ? LEAST + (1 - LEAST) * tilt : 1) * (drives.speed[measure] ? 1 - (1 - LEAST) * speed : 1);
  }

  /** @param {PointerEvent} event */
  #draw(event) {
    const { paper } = this;
    const drawn = event.getCoalescedEvents?.() ?? [];
    for (const one of drawn.length ? drawn : [event]) {
      const box = this.canvas.getBoundingClientRect();
      const now = { x: one.clientX - box.left, y: one.clientY - box.top };
      const tells = this.#reading?.read(one) ?? { pressure: 1, tilt: 0, speed: 0 };
      for (const { what, place } of this.told) place.textContent = `${Math.round(tells[what] * 100)} %`;
      paper.lineCap = "round";
      paper.lineWidth = Math.max(1, WIDEST * this.#factor("size", tells));
      paper.strokeStyle = `hsl(30 8% ${PALEST - (PALEST - DARKEST) * this.#factor("opacity", tells) * this.#factor("flow", tells)}%)`;
      paper.beginPath();
      paper.moveTo((this.#last ?? now).x, (this.#last ?? now).y);
      paper.lineTo(now.x, now.y);
      paper.stroke();
      this.#last = now;
    }
  }

  async play() {
    this.clear();
    await play(this.canvas, RECORDINGS[find(page, "[data-practice]", HTMLSelectElement).value], this.canvas.getBoundingClientRect());
    this.canvas.dataset.played = "yes";
  }
}

const pad = new Pad(find(page, "#pad", HTMLCanvasElement));
events.on("click", "#pad-clear", () => pad.clear());
events.on("click", "#pad-play", () => pad.play());
