/** What the retoucher looks at, and how: the views, the zoom, the turn of the picture, its overview, its surround. */

import { all, find } from "../core/dom.js";
import { numberOf } from "../core/sums.js";
import { keep, recall } from "../core/store.js";
import { UNFRAMED } from "../core/showing.js";
import { TURN } from "./place.js";
import { PRINTED } from "./printing.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

const SURROUND = "glyptic-surround";
const SURROUNDS = ["mid", "light", "dark"];
const STEP = Math.SQRT2;
const OVERVIEW_SIDE = 116;

export class Looks {
  #everywhere = false;

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.overview = find(bench.stage, "#overview", HTMLElement);
    this.zoom = find(bench.stage, "#zoom", HTMLInputElement);
    this.#bindViews();
    this.#bindZoom();
    this.#bindOverview();
    this.#bindSurround();
    bench.showing.addEventListener("view", () => this.#showViews());
    bench.showing.addEventListener("held", () => this.#showViews());
    bench.fresh(() => this.#showViews());
  }

  #bindViews() {
    const { events, keys, showing } = this.bench;
    events.on("click", "[data-view]", (_, button) => {
      showing.setView(button.dataset.view);
      button.closest("details")?.removeAttribute("open");
    });
    keys.bind("next-view", () => this.#nextView());
    keys.bind("everywhere", () => this.#holdEverywhere(), () => this.#letGoEverywhere());
  }

  get #views() { return all(this.bench.root, ".views [data-view]", HTMLButtonElement).filter((button) => !button.hidden); }

  #nextView() {
    const names = this.#views.map((button) => button.dataset.view ?? "");
    this.bench.showing.setView(names[(names.indexOf(this.bench.showing.view) + 1) % names.length]);
  }

  /** Show the chosen layer as if its mask were open, until the key is let go. */
  #holdEverywhere() {
    const { session, showing } = this.bench;
    if (!session.state.target.masked) return;
    this.#everywhere = true;
    showing.draft("set", { layer: session.chosen, field: "mask.enabled", value: false }, "finished");
  }

  #letGoEverywhere() {
    if (this.#everywhere) this.bench.showing.giveUpDraft();
    this.#everywhere = false;
  }

  /** Only the views that the chosen layer has; a view that it has not gives way to the finished picture. */
  #showViews() {
    const { session, showing, root, hatch, printing, comparing } = this.bench;
    const seen = comparing?.held === "before" ? "before" : showing.view.replace("-stops", "");
    const { masked, kind } = session.state.target;
    const has = /** @type {Record<string, boolean>} */ ({ "": true, mask: masked, painting: kind === "grey" });
    for (const button of all(root, "[data-view]", HTMLButtonElement)) {
      button.hidden = !has[button.dataset.needs ?? ""];
      button.setAttribute("aria-pressed", String(button.dataset.view === seen));
    }
    for (const family of all(root, ".views .family", HTMLElement)) family.hidden = all(family, "button", HTMLButtonElement).every((button) => button.hidden);
    const now = this.#views.find((button) => button.dataset.view === seen);
    for (const name of all(root, "[data-view-name]", HTMLElement)) name.textContent = now?.dataset.title ?? "Finished";
    hatch.show(showing.view === "mask-over");
    printing.show(showing.view === PRINTED);
    this.bench.stage.classList.toggle("grey-shown", showing.view === "grey-alone");
    if (!now && showing.view !== UNFRAMED) showing.setView("finished");
  }

  #bindZoom() {
    const { events, keys, canvas } = this.bench;
    const pointer = () => this.bench.hand.lastPointer;
    const deeds = /** @type {Record<string, () => void>} */ ({
      out: () => canvas.zoomBy(1 / STEP), in: () => canvas.zoomBy(STEP), fit: () => canvas.fit(), one: () => canvas.oneToOne(null),
      left: () => this.#turn(-TURN), right: () => this.#turn(TURN), mirror: () => canvas.move((place) => place.mirror()), upright: () => this.#upright(),
    });
    events.on("click", "[data-zoom]", (_, button) => deeds[button.dataset.zoom]());
    events.on("change", "#zoom", () => this.#typedZoom());
    keys.bind("fit", () => canvas.fit());
    keys.bind("one-to-one", () => canvas.oneToOne(pointer()));
    keys.bind("zoom-in", () => canvas.zoomBy(STEP, pointer()));
    keys.bind("zoom-out", () => canvas.zoomBy(1 / STEP, pointer()));
    keys.bind("turn-left", deeds.left);
    keys.bind("turn-right", deeds.right);
    keys.bind("upright", deeds.upright);
    keys.bind("mirror", deeds.mirror);
    canvas.addEventListener("moved", () => this.#showZoom());
    this.#showZoom();
  }

  /** @param {number} degrees */
  #turn(degrees) { this.bench.canvas.move((place) => place.turnTo(Math.round(place.turn / TURN) * TURN + degrees)); }

  #upright() {
    this.bench.canvas.move((place) => {
      if (place.mirrored) place.mirror();
      place.turnTo(0);
    });
  }

  #typedZoom() {
    const share = numberOf(this.zoom.value);
    const { canvas } = this.bench;
    if (share && share > 0) canvas.zoomBy(share / 100 / canvas.scale);
    else this.#showZoom();
  }

  #showZoom() {
    const { canvas, stage } = this.bench;
    const share = canvas.scale * 100;
    const { turn, mirrored } = canvas.place;
    this.zoom.value = `${share < 10 ? share.toFixed(1) : Math.round(share)} %`;
    find(stage, '[data-zoom="fit"]', HTMLElement).setAttribute("aria-pressed", String(canvas.fitted));
    find(stage, '[data-zoom="one"]', HTMLElement).setAttribute("aria-pressed", String(canvas.scale === 1));
    const told = find(stage, "#turned", HTMLElement);
    told.hidden = !turn && !mirrored;
    find(told, "span", HTMLElement).textContent = [turn ? `turned ${Math.round(turn > 180 ? turn - 360 : turn)}°` : "", mirrored ? "mirrored" : ""].filter(Boolean).join(", ");
    this.#showOverview();
  }

  #bindOverview() {
    const { events, canvas } = this.bench;
    const small = find(this.overview, "canvas", HTMLCanvasElement);
    const size = () => {
      const side = Math.max(canvas.width, canvas.height);
      small.width = Math.max(1, Math.round((canvas.width / side) * OVERVIEW_SIDE * 2));
      small.height = Math.max(1, Math.round((canvas.height / side) * OVERVIEW_SIDE * 2));
      small.style.width = `${small.width / 2}px`;
      small.style.height = `${small.height / 2}px`;
    };
    size();
    canvas.addEventListener("size", size);
    const go = (/** @type {PointerEvent} */ event) => {
      const box = small.getBoundingClientRect();
      canvas.showPlace(((event.clientX - box.left) / box.width) * canvas.width, ((event.clientY - box.top) / box.height) * canvas.height);
    };
    events.drag("#overview", (event) => {
      go(event);
      return { move: go, end: () => {}, giveUp: () => {} };
    });
    canvas.addEventListener("overview", () => canvas.drawOverview(small));
  }

  /** The whole picture, small, while not all of it is on screen; what is, framed. */
  #showOverview() {
    const { canvas } = this.bench;
    const { left, top, right, bottom } = canvas.place.seen;
    const whole = left <= 0 && top <= 0 && right >= canvas.width && bottom >= canvas.height;
    this.overview.hidden = whole || !canvas.scale;
    if (this.overview.hidden) return;
    const { width, height } = canvas.place.screen;
    const corners = [[0, 0], [width, 0], [width, height], [0, height]].map(([x, y]) => canvas.place.inPicture(x, y));
    const points = corners.map(({ x, y }) => `${(100 * x) / canvas.width},${(100 * y) / canvas.height}`);
    find(this.overview, "polygon", SVGElement).setAttribute("points", points.join(" "));
  }

  #bindSurround() {
    const { events, stage, canvas } = this.bench;
    const show = (/** @type {string} */ name) => {
      stage.dataset.surround = SURROUNDS.includes(name) ? name : "mid";
      canvas.draw();
    };
    const { look } = document.documentElement.dataset;
    const isDim = look === "dim" || (look !== "light" && matchMedia("(prefers-color-scheme: dark)").matches);
    show(recall(SURROUND, isDim ? "dark" : "mid"));
    events.on("click", "#surround", () => {
      show(SURROUNDS[(SURROUNDS.indexOf(stage.dataset.surround ?? "") + 1) % SURROUNDS.length]);
      keep(SURROUND, stage.dataset.surround);
    });
  }
}
