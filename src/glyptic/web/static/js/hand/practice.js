/** The practice pen: a simulated stand-in for a tablet. It plays recorded strokes as a pen would draw them. */

const POINTER = 77;

/** @type {Record<string, { title: string, help: string, points: number[][] }>} Strokes by name: points [ms, across, down, pressure, tilt across, tilt down], places as shares of a box. */
export const RECORDINGS = {
  arc: {
    title: "A soft arc",
    help: "Pressure rises and falls again; the pen stands as a hand holds it.",
    points: [
      [0, 0.078, 0.747, 0.02, 27, 17], [33, 0.11, 0.689, 0.21, 29, 17], [67, 0.143, 0.621, 0.31, 27, 17], [100, 0.177, 0.565, 0.44, 29, 17],
      [133, 0.203, 0.504, 0.52, 29, 19], [167, 0.232, 0.449, 0.6, 28, 17], [200, 0.266, 0.393, 0.68, 29, 18], [233, 0.296, 0.353, 0.72, 29, 19],
      [267, 0.329, 0.308, 0.78, 28, 17], [300, 0.358, 0.276, 0.8, 27, 18], [333, 0.389, 0.245, 0.85, 28, 19], [367, 0.42, 0.222, 0.86, 28, 17],
      [400, 0.452, 0.21, 0.88, 28, 19], [433, 0.481, 0.197, 0.89, 29, 18], [467, 0.513, 0.2, 0.89, 28, 17], [500, 0.548, 0.212, 0.91, 29, 19],
      [533, 0.574, 0.221, 0.89, 29, 18], [567, 0.612, 0.246, 0.86, 27, 17], [600, 0.64, 0.271, 0.81, 29, 17], [633, 0.667, 0.305, 0.76, 29, 18],
      [667, 0.701, 0.347, 0.74, 28, 17], [700, 0.73, 0.393, 0.65, 29, 17], [733, 0.761, 0.448, 0.58, 29, 17], [767, 0.796, 0.505, 0.51, 29, 18],
      [800, 0.825, 0.561, 0.41, 28, 17], [833, 0.861, 0.626, 0.32, 27, 17], [867, 0.887, 0.684, 0.19, 29, 17], [900, 0.916, 0.753, 0.02, 29, 18],
    ],
  },
  shade: {
    title: "Shading with the side",
    help: "The pen leans far over and goes to and fro with even pressure.",
    points: [
      [0, 0.883, 0.151, 0.51, 59, 10], [31, 0.79, 0.168, 0.51, 59, 11], [63, 0.705, 0.191, 0.51, 58, 11], [94, 0.62, 0.211, 0.51, 57, 11],
      [126, 0.536, 0.227, 0.52, 59, 11], [157, 0.442, 0.253, 0.49, 59, 11], [189, 0.355, 0.267, 0.51, 58, 11], [220, 0.275, 0.288, 0.48, 59, 9],
      [251, 0.188, 0.307, 0.51, 59, 11], [283, 0.142, 0.333, 0.49, 59, 9], [314, 0.232, 0.352, 0.5, 58, 9], [346, 0.312, 0.371, 0.5, 59, 10],
      [377, 0.399, 0.389, 0.51, 58, 9], [409, 0.492, 0.413, 0.48, 58, 10], [440, 0.578, 0.428, 0.49, 58, 11], [471, 0.66, 0.447, 0.5, 59, 10],
      [503, 0.749, 0.473, 0.51, 57, 11], [534, 0.834, 0.488, 0.51, 58, 11], [566, 0.834, 0.513, 0.49, 57, 10], [597, 0.748, 0.53, 0.52, 59, 9],
      [629, 0.661, 0.55, 0.5, 59, 10], [660, 0.573, 0.568, 0.51, 58, 11], [691, 0.493, 0.591, 0.51, 58, 9], [723, 0.406, 0.61, 0.52, 57, 11],
      [754, 0.318, 0.631, 0.5, 57, 11], [786, 0.227, 0.651, 0.49, 57, 9], [817, 0.144, 0.667, 0.52, 58, 10], [849, 0.184, 0.691, 0.48, 58, 11],
      [880, 0.269, 0.711, 0.49, 57, 9], [911, 0.355, 0.734, 0.51, 59, 11], [943, 0.449, 0.747, 0.5, 58, 10], [974, 0.536, 0.772, 0.52, 57, 10],
      [1006, 0.621, 0.792, 0.5, 59, 9], [1037, 0.71, 0.809, 0.5, 59, 11], [1069, 0.792, 0.828, 0.49, 58, 11], [1100, 0.123, 0.849, 0.5, 59, 9],
    ],
  },
  flick: {
    title: "A quick flick",
    help: "A short fast stroke that begins firmly and runs out.",
    points: [
      [0, 0.149, 0.696, 0.94, 35, 21], [15, 0.317, 0.658, 0.9, 35, 19], [31, 0.398, 0.622, 0.83, 36, 20], [46, 0.47, 0.574, 0.73, 34, 21],
      [62, 0.535, 0.539, 0.65, 34, 19], [77, 0.59, 0.493, 0.6, 36, 20], [93, 0.64, 0.453, 0.51, 34, 19], [108, 0.68, 0.412, 0.41, 34, 21],
      [124, 0.727, 0.376, 0.34, 36, 20], [139, 0.774, 0.335, 0.25, 35, 21], [155, 0.813, 0.291, 0.14, 34, 21], [170, 0.85, 0.247, 0.02, 36, 19],
    ],
  },
};

function event(type, [, across, down, pressure, tiltX, tiltY], box) {
  return new PointerEvent(type, {
    bubbles: true, cancelable: true, composed: true, pointerId: POINTER, pointerType: "pen", isPrimary: true, button: type === "pointermove" ? -1 : 0,
    buttons: type === "pointerup" ? 0 : 1, pressure: type === "pointerup" ? 0 : pressure, tiltX, tiltY,
    clientX: box.left + across * box.width, clientY: box.top + down * box.height,
  });
}

const frame = () => new Promise((resolve) => { requestAnimationFrame(resolve); });

/** Play a recording on an element, within a box of the page, as fast as it was drawn. */
export async function play(target, { points }, box) {
  const start = performance.now();
  target.dispatchEvent(event("pointerdown", points[0], box));
  for (const point of points.slice(1)) {
    while (performance.now() - start < point[0]) await frame();
    target.dispatchEvent(event("pointermove", point, box));
  }
  target.dispatchEvent(event("pointerup", points.at(-1), box));
}
