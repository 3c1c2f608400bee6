/** The hue ring: a family of colours placed on it by dragging, widened by its ends. */

import { session } from "./session.js";

const RADIUS = 43;
const OUTER = 51;
const WHOLE = 360;
const NARROWEST_BORDER = 1;

let drag = null;

const ring = () => document.querySelector("#desk [data-ring]");
const at = (degrees, radius) => {
  const angle = (degrees * Math.PI) / 180;
  return [radius * Math.cos(angle), -radius * Math.sin(angle)];
};
const turned = (degrees) => ((degrees % WHOLE) + WHOLE) % WHOLE;

function arc(from, to, radius) {
  if (to - from >= WHOLE) return `M${radius} 0A${radius} ${radius} 0 1 0 ${-radius} 0A${radius} ${radius} 0 1 0 ${radius} 0`;
  const large = to - from > WHOLE / 2 ? 1 : 0;
  return `M${at(from, radius).join(" ")}A${radius} ${radius} 0 ${large} 0 ${at(to, radius).join(" ")}`;
}

function numbers() {
  const { centre, width, border } = ring().dataset;
  return { centre: Number(centre), width: Number(width), border: Number(border) };
}

export function drawRing(now) {
  if (!ring()) return;
  const { centre, width, border } = now ?? numbers();
  const half = Math.min(width / 2, WHOLE / 2);
  const soft = Math.min(half + Math.max(NARROWEST_BORDER, border * 90), WHOLE / 2);
  ring().querySelector(".arc").setAttribute("d", arc(centre - half, centre + half, OUTER));
  ring().querySelector(".soft").setAttribute("d", arc(centre - soft, centre + soft, OUTER));
  ring().querySelector(".hand-line").setAttribute("d", `M0 0L${at(centre, RADIUS - 6).join(" ")}`);
  ring().querySelectorAll(".end").forEach((end, i) => {
    const [cx, cy] = at(centre + (i ? half : -half), OUTER);
    end.setAttribute("cx", cx);
    end.setAttribute("cy", cy);
  });
}

function angleOf(event) {
  const box = ring().getBoundingClientRect();
  const [x, y] = [event.clientX - box.left - box.width / 2, event.clientY - box.top - box.height / 2];
  return (Math.atan2(-y, x) * 180) / Math.PI;
}

function change(event) {
  const angle = angleOf(event);
  const now = numbers();
  if (drag.end) {
    const away = Math.abs(turned(angle - now.centre + 180) - 180);
    drag.values = { width: Math.round(Math.min(WHOLE, away * 2)) };
  } else {
    drag.values = { centre: Math.round(turned(angle)) };
  }
  drawRing({ ...now, ...drag.values });
  session.draft("set", { layer: session.chosen, field: "settings", value: drag.values });
}

document.addEventListener("pointerdown", (event) => {
  if (!event.target.closest?.("[data-ring]") || event.button !== 0) return;
  event.preventDefault();
  ring().focus();
  ring().setPointerCapture(event.pointerId);
  drag = { pointer: event.pointerId, end: event.target.matches(".end") };
  change(event);
});
document.addEventListener("pointermove", (event) => { if (drag?.pointer === event.pointerId) change(event); });
function release(event) {
  if (drag?.pointer !== event.pointerId) return;
  const { values } = drag;
  drag = null;
  session.set("settings", values);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

document.addEventListener("keydown", (event) => {
  const step = { ArrowLeft: 5, ArrowUp: 5, ArrowRight: -5, ArrowDown: -5 }[event.key];
  if (!step || !event.target.matches?.("[data-ring]")) return;
  event.preventDefault();
  event.stopPropagation();
  const { centre, width } = numbers();
  const values = event.shiftKey ? { width: Math.min(WHOLE, Math.max(0, width + step)) } : { centre: turned(centre + step) };
  session.set("settings", values);
}, true);
