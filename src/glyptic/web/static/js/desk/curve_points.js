/** The points of a curve, as a hand may move, add and take them: pure functions of lists of [x, y], each 0..1. */

import { clamp } from "../core/dom.js";

/** @typedef {[number, number]} Point */

const GAP = 0.004;

export const tidy = (/** @type {number} */ v) => Number(v.toFixed(5));

/** Points moved together, as far as their neighbours and the ends of the range allow. @param {Point[]} all @param {number[]} which @param {number} dx @param {number} dy @returns {Point[]} */
export function moved(all, which, dx, dy) {
  const set = new Set(which);
  let [least, most] = [-1, 1];
  for (const i of which) {
    const [x] = all[i];
    if (!set.has(i - 1)) least = Math.max(least, (i > 0 ? all[i - 1][0] + GAP : 0) - x);
    if (!set.has(i + 1)) most = Math.min(most, (i < all.length - 1 ? all[i + 1][0] - GAP : 1) - x);
  }
  const across = clamp(dx, Math.min(least, 0), Math.max(most, 0));
  const ys = which.map((i) => all[i][1]);
  const up = which.length > 1 ? clamp(dy, -Math.min(...ys), 1 - Math.max(...ys)) : dy;
  return all.map(([x, y], i) => (set.has(i) ? [tidy(x + across), tidy(clamp(y + up, 0, 1))] : [x, y]));
}

/** A point added in its place; null where there is no room for one. @param {Point[]} all @param {number} x @param {number} y @param {number} most */
export function added(all, x, y, most) {
  if (all.length >= most || all.some(([px]) => Math.abs(px - x) < GAP)) return null;
  const index = all.findIndex(([px]) => px > x);
  const at = index < 0 ? all.length : index;
  return { index: at, points: all.toSpliced(at, 0, [x, y]) };
}

/** All but some points; two are always left. @param {Point[]} all @param {number[]} which */
export function without(all, which) {
  const gone = new Set(which);
  const left = all.filter((_, i) => !gone.has(i));
  return left.length >= 2 ? left : all;
}

/** The point nearest to a value, whatever its height. @param {Point[]} all @param {number} x */
export function nearestAcross(all, x) {
  const distances = all.map(([px]) => Math.abs(px - x));
  return distances.indexOf(Math.min(...distances));
}
