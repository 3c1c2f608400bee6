/** The export panel: what goes together, and what does not. */

import { find } from "../core/dom.js";

/** @param {import("../core/bench.js").Bench} bench */
export function exporting({ events, root, panels }) {
  const format = find(root, "#export-format", HTMLSelectElement);
  const depth = find(root, "#export-depth", HTMLSelectElement);
  const show = () => {
    const chosen = format.selectedOptions[0].dataset;
    depth.options[1].disabled = !chosen.depths?.includes("16");
    if (depth.options[1].disabled) depth.value = "8";
    find(root, "#export-quality-row", HTMLElement).hidden = !chosen.lossy;
    const ground = root.querySelector("#export-ground-row");
    if (ground instanceof HTMLElement) ground.hidden = Boolean(chosen.alpha);
  };
  events.on("change", "#export-format", show);
  panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "export") format.focus(); });
  show();
}
