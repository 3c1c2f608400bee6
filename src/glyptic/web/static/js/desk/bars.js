/**
 * Bars: a range that shows how far it is filled, from its middle where that is zero, and where its default lies. It is
 * dragged from anywhere on it, or by its label; turned with the wheel while Alt is held; stepped by arrows; set to its
 * default by a double press. Whoever it belongs to hears `input` while it moves and `change` when it rests.
 */

import { all, clamp } from "../core/dom.js";
import { numberOf, written } from "../core/sums.js";

/** @typedef {import("../core/events.js").Events} Events */

const TWICE = 380;
const NEAR = 4;
const REST = 350;
const TENFOLD = 10;

/** @param {HTMLInputElement} bar @param {number} value */
const shareOf = (bar, value) => clamp((value - Number(bar.min)) / (Number(bar.max) - Number(bar.min) || 1), 0, 1);

/** Show on all bars under an element how far they are filled. @param {ParentNode} within */
export function fillBars(within) {
  for (const bar of all(within, "input.bar", HTMLInputElement)) {
    const isCentred = Number(bar.min) < 0 && Number(bar.max) > 0;
    const [a, b] = [isCentred ? shareOf(bar, 0) : 0, shareOf(bar, Number(bar.value))];
    bar.style.setProperty("--from", `${100 * Math.min(a, b)}%`);
    bar.style.setProperty("--to", `${100 * Math.max(a, b)}%`);
    bar.style.setProperty("--at", `${100 * b}%`);
    if (bar.dataset.home !== undefined) bar.style.setProperty("--home", `${100 * shareOf(bar, Number(bar.dataset.home))}%`);
  }
}

/** @param {HTMLInputElement} bar */
const stepOf = (bar) => Number(bar.dataset.step) || (Number(bar.max) - Number(bar.min)) / 100;

/** Put a value on a bar, as a hand would. @param {HTMLInputElement} bar @param {number} value @param {"input" | "change"} [how] */
function put(bar, value, how = "input") {
  bar.value = String(clamp(Number(value.toFixed(6)), Number(bar.min), Number(bar.max)));
  bar.dispatchEvent(new Event(how, { bubbles: true }));
}

/** A drag of a bar: from where it was pressed, or along from where it stands. */
class Dragging {
  /** @param {HTMLInputElement} bar @param {PointerEvent} event @param {boolean} jumps @param {() => void} letGo */
  constructor(bar, event, jumps, letGo) {
    this.bar = bar;
    this.start = bar.value;
    this.letGo = letGo;
    this.box = bar.getBoundingClientRect();
    this.from = { x: event.clientX, value: jumps ? this.#valueAt(event.clientX) : Number(bar.value) };
    this.moved = jumps;
    if (jumps) put(bar, this.#rounded(this.from.value, event));
  }

  /** @param {number} x */
  #valueAt(x) { return Number(this.bar.min) + this.#spanOf(x - this.box.left); }

  /** @param {number} pixels */
  #spanOf(pixels) { return (pixels / this.box.width) * (Number(this.bar.max) - Number(this.bar.min)); }

  /** @param {number} value @param {PointerEvent} event */
  #rounded(value, event) {
    const step = stepOf(this.bar) / (event.altKey ? TENFOLD : 1);
    return Math.round(value / step) * step;
  }

  /** @param {PointerEvent} event */
  move(event) {
    const by = event.clientX - this.from.x;
    this.moved ||= Math.abs(by) >= NEAR;
    if (this.moved) put(this.bar, this.#rounded(this.from.value + this.#spanOf(event.altKey ? by / TENFOLD : by), event));
  }

  end() { if (this.moved) put(this.bar, Number(this.bar.value), "change"); }

  giveUp() {
    put(this.bar, Number(this.start));
    this.letGo();
  }
}

export class Bars {
  #pressed = { bar: /** @type {HTMLInputElement | null} */ (null), at: 0, x: 0 };
  #rest = 0;

  /** @param {Events} events @param {import("../core/keys.js").Keys} keys @param {() => void} letGo what is done when a drag is given up */
  constructor(events, keys, letGo) {
    this.letGo = letGo;
    events.on("input", "input.bar", (_, bar) => {
      fillBars(bar.parentElement);
      return false;
    });
    events.drag("input.bar", (event, bar) => this.#press(event, bar, true));
    events.drag(".row > label[for]", (event, label) => {
      const bar = document.getElementById(label.htmlFor);
      return bar instanceof HTMLInputElement && bar.classList.contains("bar") ? this.#press(event, bar, false) : null;
    });
    events.on("wheel", ".row, .dial, .card", (event, row) => this.#wheel(event, row.querySelector("input.bar")));
    keys.bind("bar-step", (event, bar) => this.#step(event, bar));
    keys.bind("number-step", (event, input) => this.#stepNumber(event, input));
    keys.bind("bar-home", (_, bar) => this.#home(bar));
  }

  /** @param {PointerEvent} event @param {HTMLInputElement} bar @param {boolean} jumps */
  #press(event, bar, jumps) {
    if (event.button !== 0 || bar.disabled) return null;
    bar.focus({ preventScroll: true });
    const before = this.#pressed;
    this.#pressed = { bar, at: event.timeStamp, x: event.clientX };
    if (before.bar === bar && event.timeStamp - before.at < TWICE && Math.abs(event.clientX - before.x) < NEAR && this.#home(bar)) {
      this.#pressed.bar = null;
      return { move() {}, end() {}, giveUp() {} };
    }
    return new Dragging(bar, event, jumps, this.letGo);
  }

  /** Set a bar to its default; false where it has none. @param {HTMLInputElement} bar */
  #home(bar) {
    if (bar.dataset.home === undefined) return false;
    put(bar, Number(bar.dataset.home));
    put(bar, Number(bar.dataset.home), "change");
    return true;
  }

  /** @param {WheelEvent} event @param {HTMLInputElement | null} bar */
  #wheel(event, bar) {
    if (!event.altKey || !bar || bar.disabled) return false;
    event.preventDefault();
    const up = (event.deltaY || event.deltaX) < 0 ? 1 : -1;
    put(bar, Number(bar.value) + up * stepOf(bar) * (event.shiftKey ? TENFOLD : 1));
    clearTimeout(this.#rest);
    this.#rest = setTimeout(() => put(bar, Number(bar.value), "change"), REST);
    return true;
  }

  /** By how much a key steps: with Shift ten times, with Alt a tenth. @param {KeyboardEvent} event @param {number} step */
  #stepOf(event, step) {
    const up = event.key === "ArrowUp" || event.key === "ArrowRight" ? 1 : -1;
    return up * step * (event.shiftKey ? TENFOLD : event.altKey ? 1 / TENFOLD : 1);
  }

  /** @param {KeyboardEvent} event @param {HTMLInputElement} bar */
  #step(event, bar) {
    put(bar, Number(bar.value) + this.#stepOf(event, stepOf(bar)));
    put(bar, Number(bar.value), "change");
  }

  /** @param {KeyboardEvent} event @param {HTMLInputElement} input */
  #stepNumber(event, input) {
    const value = numberOf(input.value);
    if (value === null) return false;
    input.value = written(value + this.#stepOf(event, Number(input.dataset.step) || 1), 4);
    return input.dispatchEvent(new Event("change", { bubbles: true }));
  }
}
