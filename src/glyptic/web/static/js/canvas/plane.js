/** Homographies of the plane, as the core has them: what carries the sheet to the picture, a crop to its corners. */

/** @typedef {[number, number]} Point */

export class Plane {
  /** @param {number[]} numbers nine, row by row */
  constructor(numbers) { this.numbers = numbers; }

  /** What carries the rectangle of a size onto four corners. @param {number[][]} corners @param {number} width @param {number} height */
  static onto([[x0, y0], [x1, y1], [x2, y2], [x3, y3]], width, height) {
    const [ax, ay, bx, by] = [x1 - x2, y1 - y2, x3 - x2, y3 - y2];
    const [sx, sy] = [x0 - x1 + x2 - x3, y0 - y1 + y2 - y3];
    const across = ax * by - bx * ay;
    const [g, h] = [(sx * by - bx * sy) / across, (ax * sy - sx * ay) / across];
    return new Plane([
      (x1 - x0 + g * x1) / width, (x3 - x0 + h * x3) / height, x0,
      (y1 - y0 + g * y1) / width, (y3 - y0 + h * y3) / height, y0,
      g / width, h / height, 1,
    ]);
  }

  /** Where a point is carried. @param {number} x @param {number} y @returns {Point} */
  at(x, y) {
    const [a, b, c, d, e, f, g, h, i] = this.numbers;
    const far = g * x + h * y + i;
    return [(a * x + b * y + c) / far, (d * x + e * y + f) / far];
  }

  get inverse() {
    const [a, b, c, d, e, f, g, h, i] = this.numbers;
    const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
    const cofactors = [e * i - f * h, c * h - b * i, b * f - c * e, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d];
    return new Plane(cofactors.map((value) => value / det));
  }

  /** By how much lengths grow at a point, on the whole. @param {number} x @param {number} y */
  growth(x, y) {
    const [px, py] = this.at(x, y);
    const [ax, ay] = this.at(x + 1, y);
    const [bx, by] = this.at(x, y + 1);
    return Math.sqrt(Math.abs((ax - px) * (by - py) - (bx - px) * (ay - py)));
  }
}

const same = (/** @type {number} */ x, /** @type {number} */ y) => [x, y];

/**
 * What carries places of the base picture to where they are shown, and back, as the view has the frame.
 * @param {import("../core/bench.js").Bench} bench
 */
export function frameOnto({ session, showing }) {
  const { frame } = session.state;
  if (!frame?.enabled || showing.view === "unframed") return { shown: same, picture: same };
  const { corners, size: [width, height], border: [left, top] } = frame;
  const onto = Plane.onto(corners, width, height);
  const back = onto.inverse;
  return {
    shown: (/** @type {number} */ x, /** @type {number} */ y) => {
      const [px, py] = back.at(x, y);
      return [px + left, py + top];
    },
    picture: (/** @type {number} */ x, /** @type {number} */ y) => onto.at(x - left, y - top),
  };
}
