/** The desk of a picture layer: the ways to lay it, and its corners in numbers. */

import { all } from "../core/dom.js";
import { say } from "../core/says.js";
import { CHOSEN } from "../core/session.js";
import { numberOf } from "../core/sums.js";

/** @typedef {import("../core/bench.js").Bench} Bench */

/** @param {Bench} bench */
export function laying(bench) {
  const { events, session, waiting } = bench;
  events.on("click", "#desk [data-lay]", (_, { dataset }) => session.ask("place", { layer: CHOSEN, way: dataset.lay }));
  events.on("click", "#desk [data-renew]", () => waiting.during("Making it anew …", (signal) => session.ask("renew", { layer: CHOSEN }, { signal })));
  events.on("click", "#desk [data-register]", () => register(bench));
  events.on("change", "#desk [data-lay-corner]", () => {
    const found = all(bench.root, "#desk [data-lay-corner]", HTMLInputElement).map((input) => numberOf(input.value));
    if (found.some((value) => value === null)) {
      say("A corner is two numbers of pixels. Nothing was changed.");
      session.catchUp();
      return;
    }
    session.set("place", { corners: [0, 2, 4, 6].map((i) => [found[i], found[i + 1]]) });
  });
}

/** Lay the picture exactly over what is below; how exactly is said. @param {Bench} bench */
async function register({ session, waiting }) {
  const answer = await waiting.during("Looking for what the two have in common …", (signal) => session.ask("register", { layer: CHOSEN }, { signal }));
  if (answer) say(answer.said);
}
