/** Regions: scribbles on what belongs to an area and on what does not; the area grows to the picture's edges. */

import { working } from "./busy.js";
import { element } from "./drawing.js";
import { session } from "./session.js";

const { canvas } = session;
const overlay = document.querySelector("#overlay");
const LEAST_APART = 3;
/** How wide a scribble is, in pixels of the screen. */
const WIDTH = 6;

let fresh = false;

/** The region that is worked on: the last one in the mask, or null for a new one. */
export const regionNow = () => (fresh ? null : session.state.regions.at(-1) ?? null);

/** Begin a new region with the next scribble. */
export function startRegion() { fresh = true; }

const path = (points) => points.map(([x, y]) => canvas.onStage(x, y)).map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L");

function mark(scribble) {
  const d = scribble.points.length > 1 ? `M${path(scribble.points)}` : `M${path(scribble.points)}h0.1`;
  return element("path", { class: scribble.belongs ? "scribble" : "scribble not", d });
}

/** Show the scribbles of the region that is worked on, and the one being drawn. */
export function drawScribbles(more) {
  const seeds = [...regionNow()?.seeds ?? [], ...(more ? [more] : [])];
  overlay.replaceChildren(...seeds.map(mark));
}

/** Find an area: the region worked on anew with other settings, or a new one. */
export async function findRegion(asked, part = regionNow()?.part ?? null) {
  const answer = await working("Looking for edges …", session.ask("areas/region", { layer: session.chosen, part, ...asked }));
  if (answer) fresh = false;
  return answer;
}

export class Scribbling {
  constructor(event, belongs) {
    this.scribble = { points: [], size: Number(((WIDTH * canvas.density) / canvas.scale).toFixed(2)), belongs };
    this.move(event);
  }

  move(event) {
    const { x, y } = canvas.at(event);
    const last = this.scribble.points.at(-1);
    const apart = last ? (Math.hypot(x - last[0], y - last[1]) * canvas.scale) / canvas.density : LEAST_APART;
    if (apart >= LEAST_APART) this.scribble.points.push([Number(x.toFixed(1)), Number(y.toFixed(1))]);
    drawScribbles(this.scribble);
  }

  async end() {
    const { seeds = [] } = regionNow() ?? {};
    if (!this.scribble.belongs && !regionNow()) {
      drawScribbles();
      return;
    }
    await findRegion({ seeds: [...seeds, this.scribble] });
    drawScribbles();
  }

  giveUp() { drawScribbles(); }
}
