/** Begins to show the plate while the rest of the bench is still on its way. */

import { Bench } from "../core/bench.js";
import { begin } from "../core/busy.js";
import { find } from "../core/dom.js";

begin();
export const bench = new Bench(find(document, "#bench", HTMLElement));
bench.showing.open();
