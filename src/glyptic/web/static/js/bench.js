/** The bench: what belongs to no single part of it. */

import "./keys.js";
import { beginPart } from "./areas.js";
import { drawWindows } from "./tone_window.js";
import { drawMaskCurve } from "./mask_curve.js";
import { brush, showHand } from "./brush.js";
import { begin, end } from "./busy.js";
import { freshDesk } from "./controls.js";
import { drawCurve } from "./curve.js";
import { drawHandles } from "./handles.js";
import { drawLevels } from "./levels.js";
import { measureSoon } from "./measures.js";
import { showLog } from "./panels.js";
import { freshSwitches } from "./picks.js";
import { drawRing } from "./ring.js";
import { session } from "./session.js";
import { freshStrip, showChosen } from "./strip.js";
import { keep, recall } from "./store.js";

const PATIENCE = 600;
const SURROUND = "glyptic-surround";
const SURROUNDS = ["", "light", "dark"];
const stage = document.querySelector("#stage");
const kept = document.querySelector("#kept");
const waiting = document.querySelector("#waiting");
let keptAt = Date.now();
let waitTimer = 0;

function showViews() {
  const { masked, kind } = session.state.target;
  const has = { "": true, mask: masked, painting: kind === "grey" };
  for (const button of document.querySelectorAll("[data-view]")) {
    button.disabled = !has[button.dataset.needs];
    button.setAttribute("aria-pressed", String(button.dataset.view === session.view));
  }
  const now = document.querySelector(`[data-view="${session.view}"]`);
  if (now.disabled) session.setView("finished");
}

function showZoom() {
  const { scale, fitted } = session.canvas;
  const share = scale * 100;
  document.querySelector("#zoom").textContent = `${share < 10 ? share.toFixed(1) : Math.round(share)} %${fitted ? " · fit" : ""}`;
}

function showKept() {
  if (kept.classList.contains("waiting")) return;
  const seconds = Math.round((Date.now() - keptAt) / 1000);
  kept.textContent = seconds < 60 ? `kept ${seconds} s ago` : `kept ${Math.round(seconds / 60)} min ago`;
}

function showTrouble() {
  const trouble = document.querySelector("#trouble");
  trouble.textContent = session.state.trouble;
  trouble.hidden = !session.state.trouble;
}

function everything() {
  showTrouble();
  freshDesk();
  freshStrip();
  drawCurve();
  drawLevels();
  drawMaskCurve();
  drawWindows();
  drawRing();
  drawHandles(["paint", "pick", "region"].includes(brush.hand));
  freshSwitches();
  showViews();
}

session.addEventListener("state", ({ detail: { before } }) => {
  everything();
  measureSoon();
  if (before.chosen !== session.chosen) showChosen();
  if (before.revision !== session.state.revision) {
    keptAt = Date.now();
    showKept();
    showLog();
  }
});
session.addEventListener("view", showViews);
session.canvas.addEventListener("moved", showZoom);
session.canvas.addEventListener("waiting", ({ detail }) => {
  clearTimeout(waitTimer);
  if (detail) waitTimer = setTimeout(() => { waiting.hidden = false; }, PATIENCE);
  else waiting.hidden = true;
});

document.addEventListener("click", (event) => {
  const view = event.target.closest("[data-view]");
  if (view) session.setView(view.dataset.view);
  const move = event.target.closest("[data-do]");
  if (move) session.ask(move.dataset.do);
});

document.querySelector("#surround").addEventListener("click", () => {
  const at = SURROUNDS.findIndex((name) => (name ? stage.classList.contains(name) : stage.classList.length === 1));
  stage.className = `stage ${SURROUNDS[(at + 1) % SURROUNDS.length]}`.trim();
  keep(SURROUND, stage.className);
  session.canvas.draw();
});
stage.className = recall(SURROUND, "stage");

document.addEventListener("change", (event) => {
  const { id, value } = event.target;
  if (id === "take-mask" && value) takeMask(...value.split(" "));
  if (id === "add-part" && value) addPart(value, event.target);
});

/** Take another layer's mask: a copy, an inverted one, the mask itself, or a link to it. */
function takeMask(how, from) {
  if (how === "link") session.set("mask.linked", from);
  else session.edit("take-mask", { layer: session.chosen, from, copy: how !== "move", invert: how === "invert" });
}

/** Parts that are drawn take the hand; the others are added as they start. */
function addPart(kind, select) {
  select.value = "";
  if (beginPart(kind)) return;
  const drawn = document.querySelector(`[data-hand="${kind}"]`);
  if (drawn) {
    drawn.click();
    return;
  }
  if (kind.startsWith("fill-")) {
    session.edit("add-part", { layer: session.chosen, part: { kind: "everything", op: kind.slice(5) } });
    return;
  }
  const settings = { tone: { low: 0, high: 0.4, soft_high: 0.2 }, colour: { colour: [0.5, 0.5, 0.5], tolerance: 0.1, softness: 0.1 } };
  session.edit("add-part", { layer: session.chosen, part: { kind, op: "show", ...settings[kind] } });
}

globalThis.addEventListener("focus", () => session.refresh());
setInterval(showKept, 1000);
showHand();
everything();
showChosen();
showZoom();
begin();
session.open().finally(() => { // begun by first.js
  measureSoon();
  end();
});
document.body.dataset.ready = "yes";
