/** The colours of the canvases: those of the plate's working space as far as this screen can show them. */

const space = document.querySelector("[data-space]")?.getAttribute("data-space") ?? "srgb";

/** What the server is asked for, and what every canvas is made in. A plate in sRGB needs no more; another one is shown in
 * Display P3 where the screen has that, else converted to sRGB. @type {"srgb" | "display-p3"} */
export const SCREEN = space !== "srgb" && matchMedia("(color-gamut: p3)").matches ? "display-p3" : "srgb";

/** How a picture file for the canvas is decoded: by its profile where it has one. @type {ImageBitmapOptions} */
export const DECODED = { colorSpaceConversion: SCREEN === "srgb" ? "none" : "default", premultiplyAlpha: "none" };

/** What draws on a canvas. @param {HTMLCanvasElement | OffscreenCanvas} canvas @param {CanvasRenderingContext2DSettings} [more] */
export function penOf(canvas, more = {}) {
  return canvas.getContext("2d", { ...more, colorSpace: SCREEN });
}

/** Pixels for a canvas. @param {ArrayBuffer} bytes @param {number} width @param {number} height */
export function pixelsOf(bytes, width, height) {
  return new ImageData(new Uint8ClampedArray(bytes), width, height, { colorSpace: SCREEN });
}
