/** Rows of choices, tabs and tools: one stop for the tab key each, arrows go along them; pressed by a pointer they leave
 * the focus where it was, so that the keys go on working on the picture. */

import { all } from "../core/dom.js";

const ROWS = '[role="radiogroup"], [role="tablist"], [role="toolbar"]';
const ONE = '[role="radio"], [role="tab"], [role="toolbar"] button';

/**
 * @param {HTMLElement} root
 * @param {import("../core/events.js").Events} events
 * @param {import("../core/keys.js").Keys} keys
 */
export function roving(root, events, keys) {
  keys.bind("row-step", (event, one) => {
    const row = one.closest(ROWS);
    const ones = all(row, ONE, HTMLElement).filter((each) => each.offsetParent !== null && !each.matches(":disabled"));
    const by = ["ArrowRight", "ArrowDown"].includes(event.key) ? 1 : -1;
    const next = ones[(ones.indexOf(one) + by + ones.length) % ones.length];
    next?.focus();
    if (!row.matches('[role="toolbar"]')) next?.click();
    if (next?.isConnected) next.focus();
  });
  events.on("mousedown", `#hand button, .views button, .zoombar button, .ways button`, (event) => {
    if (root.contains(document.activeElement)) event.preventDefault();
    return false;
  });
}
