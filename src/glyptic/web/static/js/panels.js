/** Panels over the canvas: Add, Log, Export, Keys. One is open at a time; the picture stays live beneath. */

import { say } from "./says.js";
import { getHtml, postForm, Refusal } from "./server.js";
import { session } from "./session.js";

const BUTTONS = { add: "#add-button", log: "#log-button", export: "#export-button" };
let start = "open";

export function closePanels() {
  let closed = false;
  for (const [name, button] of Object.entries(BUTTONS)) {
    const panel = document.querySelector(`#${name}`);
    closed ||= !panel.hidden;
    panel.hidden = true;
    document.querySelector(button).setAttribute("aria-expanded", "false");
  }
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
  panel.querySelector(".entry, select, li button")?.focus();
}

export async function showLog() {
  const list = document.querySelector("#log-entries");
  if (document.querySelector("#log").hidden) return;
  list.innerHTML = await getHtml(`${session.url}log`);
  globalThis.htmx.process(list);
}

async function add(kind) {
  closePanels();
  if (kind === "picture") {
    document.querySelector("#add-picture").click();
    return;
  }
  await session.ask("layers", { kind, start, after: session.chosen });
}

async function addPicture(input) {
  const [file] = input.files;
  input.value = "";
  if (!file) return;
  const looking = session.looking;
  const form = new FormData();
  form.append("picture", file);
  form.append("request", JSON.stringify({ revision: session.state.revision, after: session.chosen, looking }));
  say(`Reading ${file.name} …`, 60);
  try {
    session.adopt(await postForm(`${session.url}pictures`, form), looking);
    say(`${file.name} lies over the picture; set its place on the desk.`);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    session.complain(error);
  }
}

document.addEventListener("click", (event) => {
  const { target } = event;
  for (const [name, button] of Object.entries(BUTTONS)) if (target.closest(button)) openPanel(name);
  if (target.closest("[data-close]")) closePanels();
  if (target.closest("#help-button")) document.querySelector("#keys").showModal();
  const entry = target.closest("[data-add]");
  if (entry) add(entry.dataset.add);
  const go = target.closest("[data-go]");
  if (go) session.ask("go", { to: Number(go.dataset.go) });
  const chosenStart = target.closest("#add [data-start]");
  if (chosenStart) {
    start = chosenStart.dataset.start;
    for (const button of document.querySelectorAll("#add [data-start]")) button.setAttribute("aria-checked", String(button === chosenStart));
  }
});

document.querySelector("#add-picture").addEventListener("change", (event) => addPicture(event.target));

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
