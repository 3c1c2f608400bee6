/** The practice pen on the bench: it plays in the middle of the picture, with whatever is in the hand. */

import { busyWith } from "../core/busy.js";
import { find } from "../core/dom.js";
import { RECORDINGS, play } from "./practice.js";

const FROM = 0.35;
const SHARE = 0.3;

/** @param {import("../core/bench.js").Bench} bench */
export function practise({ events, stage, root }) {
  events.on("click", "#practice-play", () => {
    const { left, top, width, height } = stage.getBoundingClientRect();
    const box = { left: left + width * FROM, top: top + height * FROM, width: width * SHARE, height: height * SHARE };
    busyWith(play(stage, RECORDINGS[find(root, "#pressure [data-practice]", HTMLSelectElement).value], box));
  });
}
