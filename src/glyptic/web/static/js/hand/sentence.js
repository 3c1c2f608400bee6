/** What the hand would do now, in words. */

/** @typedef {import("../core/bench.js").Bench} Bench */

/** @type {Record<string, string>} */
const DOES = { Neutral: "Makes neutral by", Even: "Evens the painting out by" };

const small = (/** @type {string} */ text) => `${text.charAt(0).toLowerCase()}${text.slice(1)}`;

/** @type {Record<string, (bench: Bench, where: string, off: string) => [string, string]>} */
const HANDS = {
  shift: ({ session }) => ["Drag to shift the mask", `of ‘${session.state.target.name}’; arrow keys by a pixel, with Shift by ten`],
  paint: ({ brush, session }, where, off) => {
    const { name, masked } = session.state.target;
    const fresh = brush.target === "mask" && !masked ? `on a new mask of ‘${name}’` : where;
    const word = brush.sides[String(brush.set.side)];
    return [`${DOES[word] ?? `${word}s`} ${Math.round(brush.set.opacity * 100)} %`, fresh + off];
  },
  region: ({ brush, session }, _, off) => {
    const begin = brush.sets.mask.side === 1 ? "Scribble on what belongs (Alt: on what does not);" : "Scribble on what does not belong;";
    return [begin, `the region grows to the edges on the mask of ‘${session.state.target.name}’${off}`];
  },
  outline: ({ brush, session }, _, off) => [`Drag around an area, or set corners and press the start, that it ${verb(brush)}`, `on the mask of ‘${session.state.target.name}’${off}`],
  ramp: ({ brush, session }, _, off) => [`Draws a ramp that ${verb(brush)}`, `on the mask of ‘${session.state.target.name}’, from full to none${off}`],
  oval: ({ brush, session }, _, off) => [`Draws an oval that ${verb(brush)}`, `on the mask of ‘${session.state.target.name}’, from its middle${off}`],
};

/** @param {import("./brush.js").Brush} brush */
const verb = (brush) => (brush.sets.mask.side ? "shows" : "hides");

/** @param {Bench} bench @returns {[string, string]} */
function pickSentence({ picks, session }) {
  const pick = picks.inHand;
  if (pick) return [`${pick.title}:`, small(pick.help)];
  return ["Nothing to pick:", `‘${session.state.target.name}’ is not set by pressing on the picture`];
}

/** What to do where a stroke would change nothing: showing on what shows everywhere, hiding on what shows nowhere. @param {Bench} bench */
function inVain({ brush, session }) {
  const { bare } = session.state.target;
  if (brush.target !== "mask" || !bare) return "";
  if (bare === "open" && brush.sets.mask.side === 1) return "; it shows everywhere already: press S to hide";
  return bare === "closed" && brush.sets.mask.side === 0 ? "; it shows nowhere yet: press S to show" : "";
}

/** [the deed, where]. @param {Bench} bench @returns {[string, string]} */
export function sentenceOf(bench) {
  const { brush, session } = bench;
  const { target } = session.state;
  if (brush.hand === "move") return ["Moves the picture;", "the wheel zooms at the pointer"];
  if (brush.hand === "pick") return pickSentence(bench);
  if (brush.hand === "frame") return bench.framing.sentence;
  if (brush.ownShape) return [`Draws the ${brush.ownShape}`, `of ‘${target.name}’ anew; with the leaf Mask open, a part of its mask`];
  if (!target.mask) return ["Nothing to paint on:", target.why || "choose a grey layer or a mask"];
  const where = brush.target === "grey" ? `on ‘${target.name}’, everywhere` : `on the mask of ‘${target.name}’`;
  const [deed, place] = HANDS[brush.hand](bench, where, target.off ? " (it is off)" : "");
  return [deed, place + inVain(bench)];
}
