/** What this browser keeps for the page: read as it was kept, or not at all. */

/** @param {unknown} a @param {unknown} b */
const same = (a, b) => a === null || a === undefined || b === null || (typeof a === typeof b && Array.isArray(a) === Array.isArray(b));

/** Whether what was kept has the shape of what the page starts with, as far down as that tells. @param {any} kept @param {unknown} start @returns {boolean} */
function fits(kept, start) {
  if (!same(start, kept)) return false;
  if (typeof start !== "object" || start === null || Array.isArray(start)) return true;
  return Object.entries(start).every(([name, value]) => !(name in kept) || fits(kept[name], value));
}

/**
 * What was kept under a name; `start` where nothing was, or it is damaged, or of another shape.
 * @template T
 * @param {string} name
 * @param {T} start
 * @returns {T}
 */
export function recall(name, start) {
  try {
    const kept = JSON.parse(localStorage.getItem(name) ?? "null");
    return kept !== null && fits(kept, start) ? kept : start;
  } catch {
    return start;
  }
}

/** Keep something under a name; a browser that does not let itself be written to goes on without. @param {string} name @param {unknown} value */
export function keep(name, value) {
  try {
    localStorage.setItem(name, JSON.stringify(value));
  } catch { /* it lasts as long as the page */ }
}
