/** The shelf's page: what is looked at, what is chosen, shoots, and pictures that are opened or dropped. */

import { find } from "../core/dom.js";
import { Choosing } from "../shelf/choosing.js";
import { Opening } from "../shelf/opening.js";
import { Running } from "../shelf/running.js";
import { shoots } from "../shelf/shoots.js";
import { View } from "../shelf/view.js";
import { sayFailures } from "./failures.js";

const view = new View();
const choosing = new Choosing(view);
const opening = new Opening(view);
shoots(view, choosing);
export const running = new Running(choosing);
sayFailures();

const dropHere = find(document, "#drop-here", HTMLElement);
const carriesFiles = (/** @type {DragEvent} */ event) => event.dataTransfer?.types.includes("Files") ?? false;
document.addEventListener("dragover", (event) => {
  if (!carriesFiles(event)) return;
  event.preventDefault();
  dropHere.hidden = false;
});
document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) dropHere.hidden = true; });
document.addEventListener("drop", (event) => {
  if (!carriesFiles(event)) return;
  event.preventDefault();
  dropHere.hidden = true;
  opening.open([...event.dataTransfer?.files ?? []]);
});
document.addEventListener("paste", (event) => {
  const files = [...event.clipboardData?.files ?? []];
  if (files.length) opening.open(files);
});
globalThis.addEventListener("popstate", () => location.reload());
document.body.dataset.ready = "yes";
