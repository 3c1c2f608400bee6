/** Geometry of a crop while it is dragged; what is kept of it is checked by the core. */

/**
 * @typedef {import("../canvas/plane.js").Plane} Plane
 * @typedef {{ corners: number[][], size: number[] }} Crop
 */

/** @param {number} angle degrees */
const turned = (angle) => [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];

/** Whether four corners lie round a shape without dents. @param {number[][]} corners */
export function isConvex(corners) {
  const turns = corners.map(([ax, ay], i) => {
    const [[bx, by], [cx, cy]] = [corners[(i + 1) % 4], corners[(i + 2) % 4]];
    return (bx - ax) * (cy - by) - (by - ay) * (cx - bx);
  });
  return turns.every((turn) => turn > 0) || turns.every((turn) => turn < 0);
}

/** The crop that lies at a rectangle of another one's plane, turned about its middle. @param {Plane} plane @param {number[]} rect left, top, right, bottom @param {number} [angle] @returns {Crop} */
export function cut(plane, [left, top, right, bottom], angle = 0) {
  const [cos, sin] = turned(angle);
  const [mx, my] = [(left + right) / 2, (top + bottom) / 2];
  const place = (/** @type {number} */ x, /** @type {number} */ y) => (angle ? plane.at(mx + (x - mx) * cos - (y - my) * sin, my + (x - mx) * sin + (y - my) * cos) : plane.at(x, y));
  const corners = [place(left, top), place(right, top), place(right, bottom), place(left, bottom)];
  return { corners, size: [Math.max(1, Math.round(right - left)), Math.max(1, Math.round(bottom - top))] };
}
