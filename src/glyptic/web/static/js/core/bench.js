/** The bench: one plate's page, made on an element. Its parts are put on it one after the other and find each other here. */

import { Canvas } from "../canvas/canvas.js";
import { Hatch } from "../canvas/hatch.js";
import { Printing } from "../canvas/printing.js";
import { find } from "./dom.js";
import { Events } from "./events.js";
import { Keys } from "./keys.js";
import { Session } from "./session.js";
import { Showing } from "./showing.js";

export class Bench {
  /** @type {import("../hand/brush.js").Brush} */
  brush;
  /** @type {import("../hand/pen.js").Pen} */
  pen;
  /** @type {import("../hand/hand.js").Hand} */
  hand;
  /** @type {import("../hand/picks.js").Picks} */
  picks;
  /** @type {import("../hand/regions.js").Regions} */
  regions;
  /** @type {import("../hand/strokes.js").Strokes} */
  strokes;
  /** @type {import("../hand/framing.js").Framing} */
  framing;
  /** @type {import("../hand/outlines.js").Outlines} */
  outlines;
  /** @type {import("../hand/handles.js").Handles} */
  handles;
  /** @type {import("../desk/desk.js").Desk} */
  desk;
  /** @type {import("../desk/controls.js").Controls} */
  controls;
  /** @type {import("../desk/curve.js").Curve} */
  curve;
  /** @type {import("../desk/measures.js").Measures} */
  measures;
  /** @type {import("../strip/strip.js").Strip} */
  strip;
  /** @type {import("../panels/panels.js").Panels} */
  panels;
  /** @type {import("../canvas/comparing.js").Comparing} */
  comparing;
  /** @type {import("./waiting.js").Waiting} */
  waiting;

  /** @param {HTMLElement} root */
  constructor(root) {
    this.root = root;
    this.stage = find(root, "#stage", HTMLElement);
    this.events = new Events(root);
    /** @type {import("./declared").Declared} */
    this.declared = JSON.parse(root.dataset.declared ?? "{}");
    this.keys = new Keys(root, this.declared.keys);
    this.session = new Session(this);
    this.canvas = new Canvas(this.stage, Number(root.dataset.width), Number(root.dataset.height), this.declared);
    this.hatch = new Hatch(this);
    this.printing = new Printing(this);
    this.showing = new Showing(this);
  }

  /** Where what belongs to a drawing over the picture is drawn. @param {string} name */
  layerOf(name) { return find(this.stage, `#${name}`, SVGElement); }

  /** Draw anew whenever the state changes, and now. @param {() => void} draw */
  fresh(draw) {
    this.session.addEventListener("state", draw);
    draw();
  }
}
