/** A sentence shown for a while, where it does not cover the picture; a deed may stand beside it. */

import { find, make } from "./dom.js";

const SECONDS = 8;
const box = find(document, "#says", HTMLElement);
let timer = 0;

/**
 * Say a sentence. `deed` offers something to do about it: its words, and what a press does.
 * @param {string} sentence
 * @param {number} [seconds]
 * @param {{ words: string, press: () => void } | null} [deed]
 */
export function say(sentence, seconds = SECONDS, deed = null) {
  find(box, "span", HTMLElement).textContent = sentence;
  box.querySelector("[data-deed]")?.remove();
  if (deed) {
    const button = make("button", { type: "button", className: "quiet-button", textContent: deed.words, "data-deed": "" });
    button.addEventListener("click", () => {
      hush();
      deed.press();
    });
    find(box, "span", HTMLElement).after(button);
  }
  box.hidden = false;
  clearTimeout(timer);
  timer = setTimeout(hush, seconds * 1000);
}

/** Take the sentence away. */
export function hush() { box.hidden = true; }

find(box, "[data-hush]", HTMLElement).addEventListener("click", hush);
