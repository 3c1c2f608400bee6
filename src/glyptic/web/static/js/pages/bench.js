/** The bench's page: its parts, in the order in which they need each other, and what belongs to none of them alone. */

import { Comparing } from "../canvas/comparing.js";
import { Exact } from "../canvas/exact.js";
import { Pins } from "../canvas/pins.js";
import { Looks } from "../canvas/looks.js";
import { end } from "../core/busy.js";
import { hush } from "../core/says.js";
import { Waiting } from "../core/waiting.js";
import { Beginning } from "../desk/beginning.js";
import { Bars } from "../desk/bars.js";
import { Controls } from "../desk/controls.js";
import { Curve } from "../desk/curve.js";
import { Desk } from "../desk/desk.js";
import { FrameDesk } from "../desk/frame_desk.js";
import { Findings } from "../desk/findings.js";
import { HueRing } from "../desk/hue_ring.js";
import { laying } from "../desk/laying.js";
import { Levels } from "../desk/levels.js";
import { MaskCurve } from "../desk/mask_curve.js";
import { Measures } from "../desk/measures.js";
import { Stops } from "../desk/stops.js";
import { ToneWindows } from "../desk/tone_window.js";
import { Ways } from "../desk/ways.js";
import { Brush } from "../hand/brush.js";
import { Framing } from "../hand/framing.js";
import { Hand } from "../hand/hand.js";
import { HandBar } from "../hand/hand_bar.js";
import { Handles } from "../hand/handles.js";
import { Outlines } from "../hand/outlines.js";
import { Pen } from "../hand/pen.js";
import { penPanel } from "../hand/pen_panel.js";
import { Picks } from "../hand/picks.js";
import { practise } from "../hand/practising.js";
import { Regions } from "../hand/regions.js";
import { Strokes } from "../hand/strokes.js";
import { Add } from "../panels/add.js";
import { exporting } from "../panels/exporting.js";
import { Guide } from "../panels/guide.js";
import { Help } from "../panels/help.js";
import { Kept } from "../panels/kept.js";
import { Kits } from "../panels/kits.js";
import { Log } from "../panels/log.js";
import { Checks } from "../panels/checks.js";
import { Panels } from "../panels/panels.js";
import { Proofs } from "../panels/proofs.js";
import { Finding } from "../strip/finding.js";
import { dragMasks } from "../strip/mask_drag.js";
import { Sets } from "../strip/sets.js";
import { Strip } from "../strip/strip.js";
import { roving } from "./roving.js";
import { bench } from "./first.js";

const TYPED = 'input:not([type="range"]):not([type="checkbox"]), textarea, select';
const { events, keys, showing } = bench;

bench.waiting = new Waiting(bench);
bench.panels = new Panels(bench);
const bars = new Bars(events, keys, () => showing.giveUpDraft());
bench.controls = new Controls(bench);
bench.strip = new Strip(bench);
bench.desk = new Desk(bench);
bench.measures = new Measures(bench);
bench.curve = new Curve(bench);
bench.pen = new Pen();
penPanel(bench.root, events, bench.pen);
bench.picks = new Picks(bench);
bench.brush = new Brush(bench);
bench.handles = new Handles(bench);
bench.outlines = new Outlines(bench);
bench.regions = new Regions(bench);
bench.strokes = new Strokes(bench);
bench.framing = new Framing(bench);
bench.hand = new Hand(bench);
bench.comparing = new Comparing(bench);
const finding = new Finding(bench);
const help = new Help(bench);
/** Parts that nobody else asks for anything. */
export const parts = [
  bars, new HandBar(bench), new Levels(bench), new ToneWindows(bench), new MaskCurve(bench), new HueRing(bench), new Stops(bench), new Findings(bench),
  new Ways(bench), new Add(bench), new Log(bench), new Beginning(bench), new Proofs(bench), new Sets(bench), new Pins(bench), new Exact(bench), new Checks(bench), new Looks(bench), new Kept(bench), new Kits(bench), new Guide(bench), new FrameDesk(bench),
];
exporting(bench);
laying(bench);
practise(bench);
dragMasks(bench);
roving(bench.root, events, keys);

/** Escape gives up the nearest thing: help, what is drawn, a search, a menu, a panel, a choice of several cards. */
keys.bind("escape", (event) => {
  const { target } = event;
  if (help.close() || bench.hand.giveUp() || bench.waiting.stop() || finding.close() || bench.panels.closeMenus() || bench.panels.close()) return;
  if (target instanceof HTMLInputElement && target.matches(TYPED)) {
    target.value = target.defaultValue;
    bench.stage.focus({ preventScroll: true });
  } else if (!bench.strip.letGo()) hush();
});

/** A number or a name that was typed is kept by Enter, and the keys work on the picture again. */
keys.bind("typed", (_, input) => {
  input.blur();
  bench.stage.focus({ preventScroll: true });
});

for (const name of ["plate-before", "plate-after"]) keys.bind(name, () => bench.root.querySelector(`#${name}`)?.dispatchEvent(new MouseEvent("click", { bubbles: true })) ?? false);

globalThis.addEventListener("focus", () => showing.refresh());
showing.open().finally(() => {
  bench.measures.soon();
  end();
});
document.body.dataset.ready = "yes";
