/** The hue ring: a family of colours placed on it by dragging, widened by its ends. */

import { all, find, maybe } from "../core/dom.js";
import { CHOSEN } from "../core/session.js";

/** @typedef {import("../core/bench.js").Bench} Bench */
/** @typedef {{ centre: number, width: number, border: number }} Family */

const RADIUS = 43;
const OUTER = 51;
const WHOLE = 360;
const NARROWEST_BORDER = 1;
const WIDEST_BORDER = 90;

const turned = (/** @type {number} */ degrees) => ((degrees % WHOLE) + WHOLE) % WHOLE;

/** @param {number} degrees @param {number} radius */
function at(degrees, radius) {
  const angle = (degrees * Math.PI) / 180;
  return [radius * Math.cos(angle), -radius * Math.sin(angle)];
}

/** @param {number} from @param {number} to @param {number} radius */
function arc(from, to, radius) {
  if (to - from >= WHOLE) return `M${radius} 0A${radius} ${radius} 0 1 0 ${-radius} 0A${radius} ${radius} 0 1 0 ${radius} 0`;
  const large = to - from > WHOLE / 2 ? 1 : 0;
  return `M${at(from, radius).join(" ")}A${radius} ${radius} 0 ${large} 0 ${at(to, radius).join(" ")}`;
}

export class HueRing {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    bench.events.drag("#desk [data-ring]", (event) => this.#press(event));
    bench.keys.bind("ring-step", (event) => this.#step(event));
    bench.fresh(() => this.draw());
  }

  get #ring() { return maybe(this.bench.root, "#desk [data-ring]", SVGElement); }

  /** @returns {Family} */
  get #family() {
    const { centre, width, border } = this.#ring?.dataset ?? {};
    return { centre: Number(centre), width: Number(width), border: Number(border) };
  }

  draw(family = this.#family) {
    const ring = this.#ring;
    if (!ring) return;
    const { centre, width, border } = family;
    const half = Math.min(width / 2, WHOLE / 2);
    const soft = Math.min(half + Math.max(NARROWEST_BORDER, border * WIDEST_BORDER), WHOLE / 2);
    find(ring, ".arc", SVGElement).setAttribute("d", arc(centre - half, centre + half, OUTER));
    find(ring, ".soft", SVGElement).setAttribute("d", arc(centre - soft, centre + soft, OUTER));
    find(ring, ".hand-line", SVGElement).setAttribute("d", `M0 0L${at(centre, RADIUS - 6).join(" ")}`);
    all(ring, ".end", SVGElement).forEach((end, i) => {
      const [cx, cy] = at(centre + (i ? half : -half), OUTER);
      end.setAttribute("cx", String(cx));
      end.setAttribute("cy", String(cy));
    });
  }

  /** @param {PointerEvent} event */
  #press(event) {
    const ring = this.#ring;
    if (!ring || event.button !== 0) return null;
    ring.focus();
    const isEnd = /** @type {Element} */ (event.target).matches(".end");
    /** @type {Partial<Family>} */
    let values = {};
    const change = (/** @type {PointerEvent} */ one) => {
      const box = ring.getBoundingClientRect();
      const angle = (Math.atan2(box.top + box.height / 2 - one.clientY, one.clientX - box.left - box.width / 2) * 180) / Math.PI;
      const family = this.#family;
      const away = Math.abs(turned(angle - family.centre + WHOLE / 2) - WHOLE / 2);
      values = isEnd ? { width: Math.round(Math.min(WHOLE, away * 2)) } : { centre: Math.round(turned(angle)) };
      this.draw({ ...family, ...values });
      this.bench.showing.draft("set", { layer: CHOSEN, field: "settings", value: values });
    };
    change(event);
    return { move: change, end: () => this.bench.session.set("settings", values), giveUp: () => { this.draw(); this.bench.showing.giveUpDraft(); } };
  }

  /** @param {KeyboardEvent} event */
  #step(event) {
    const step = ["ArrowLeft", "ArrowUp"].includes(event.key) ? 5 : -5;
    const { centre, width } = this.#family;
    this.bench.session.set("settings", event.shiftKey ? { width: Math.min(WHOLE, Math.max(0, width + step)) } : { centre: turned(centre + step) });
  }
}
