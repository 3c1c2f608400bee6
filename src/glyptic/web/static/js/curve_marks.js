/** What is marked on the curve: where it cannot be trusted, and where the spot under the pointer lies on each channel. */

import { element } from "./drawing.js";

export const WIDTH = 276;
export const HEIGHT = 168;
const WORDS = { flat: "Nearly flat", falling: "Falls: tones are turned round", clipped: "Clips" };
const MOST_TOLD = 3;

let faults = {};
let meets = null;
let channel = "rgb";
let paths = {};

const box = () => document.querySelector("#curve");
const percent = (share) => (share > 0 && share < 0.005 ? "less than 1 %" : `${Math.round(share * 100)} %`);

/** Draw the marks anew; what is not given stays as it was. */
export function drawMarks(toChannel, toPaths, news = {}) {
  [channel, paths] = [toChannel, toPaths];
  if (news.faults) ({ faults } = news);
  if (!box()) return;
  drawFaults();
  drawSpot();
}

export function showFaults(found) {
  faults = found ?? {};
  if (box()) drawFaults();
}

/** Where the spot under the pointer lies on each curve, or null. */
export function showUnder(places) {
  meets = places && Object.keys(places).length ? places : null;
  if (box()) drawSpot();
}

function drawFaults() {
  const found = faults[channel] ?? [];
  box().querySelector(".faults").replaceChildren(
    ...found.map(({ kind, low, high }) => element("rect", { class: kind, x: low * WIDTH, y: 0, width: Math.max(1.5, (high - low) * WIDTH), height: HEIGHT })),
  );
  const list = document.querySelector("#curve-faults");
  const told = found.toSorted((a, b) => b.share - a.share).slice(0, MOST_TOLD);
  list.replaceChildren(...told.map((fault) => row(fault)));
}

function row(fault) {
  const item = document.createElement("li");
  item.className = fault.kind;
  const words = document.createElement("span");
  words.textContent = `${WORDS[fault.kind]} from ${Math.round(fault.low * 100)} to ${Math.round(fault.high * 100)} %: ${percent(fault.share)} of the pixels`;
  const button = document.createElement("button");
  Object.assign(button, { type: "button", className: "word", textContent: "Smooth", title: "Moves the two nearest points as little as needed" });
  button.dataset.mend = JSON.stringify({ low: fault.low, high: fault.high });
  item.append(words, button);
  return item;
}

/** The height of a path, sampled evenly, at x in 0..1. */
function heightAt(path, x) {
  const places = path.slice(1).split("L");
  const [, y] = places[Math.round(x * (places.length - 1))].split(",");
  return Number(y);
}

function drawSpot() {
  const shown = { rgb: ["red", "green", "blue", "rgb"], tone: ["tone"] }[channel] ?? ["red", "green", "blue"];
  const spots = box().querySelector(".spots");
  spots.replaceChildren();
  for (const name of meets ? shown.filter((one) => paths[one]) : []) {
    const x = meets[name] * WIDTH;
    if (name === channel) spots.append(element("path", { class: "here", d: `M${x} 0V${HEIGHT}` }));
    spots.append(element("circle", { class: name, cx: x, cy: heightAt(paths[name], meets[name]), r: name === channel ? 4 : 3 }));
  }
}
