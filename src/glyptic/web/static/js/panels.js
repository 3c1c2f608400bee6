/** Panels over the canvas: Add, Log, Export, Keys. One is open at a time; the picture stays live beneath. */

import { openAdd } from "./add.js";
import { say } from "./says.js";
import { getHtml } from "./server.js";
import { session } from "./session.js";

const BUTTONS = { add: "#add-button", log: "#log-button", export: "#export-button" };

export function closePanels() {
  let closed = false;
  for (const [name, button] of Object.entries(BUTTONS)) {
    const panel = document.querySelector(`#${name}`);
    closed ||= !panel.hidden;
    panel.hidden = true;
    document.querySelector(button).setAttribute("aria-expanded", "false");
  }
  if (closed) document.dispatchEvent(new Event("panel-closed"));
  return closed;
}

export function openPanel(name) {
  const panel = document.querySelector(`#${name}`);
  const wasOpen = !panel.hidden;
  closePanels();
  if (wasOpen) return;
  panel.hidden = false;
  document.querySelector(BUTTONS[name]).setAttribute("aria-expanded", "true");
  if (name === "log") showLog();
  if (name === "add") openAdd();
  else panel.querySelector("select, li button")?.focus();
}

export async function showLog() {
  const list = document.querySelector("#log-entries");
  if (document.querySelector("#log").hidden) return;
  list.innerHTML = await getHtml(`${session.url}log`);
  globalThis.htmx.process(list);
}

document.addEventListener("click", (event) => {
  const { target } = event;
  for (const [name, button] of Object.entries(BUTTONS)) if (target.closest(button)) openPanel(name);
  if (target.closest("[data-close]")) closePanels();
  if (target.closest("#help-button")) document.querySelector("#keys").showModal();
  const go = target.closest("[data-go]");
  if (go) session.ask("go", { to: Number(go.dataset.go) });
});

document.addEventListener("close-panels", closePanels);

const format = document.querySelector("#export-format");
format.addEventListener("change", () => {
  const jpeg = format.value === "jpeg";
  const depth = document.querySelector("#export-depth");
  depth.options[1].disabled = jpeg;
  if (jpeg) depth.value = "8";
  document.querySelector("#export-quality-row").hidden = !jpeg;
});

document.body.addEventListener("htmx:responseError", (event) => {
  try {
    say(new DOMParser().parseFromString(event.detail.xhr.responseText, "text/html").body.textContent.trim());
  } catch {
    say("That did not work. Nothing was changed.");
  }
});
document.body.addEventListener("htmx:sendError", () => say("The server does not answer. Is Glyptic still running?"));
