/** The shelf: open pictures by choosing or dropping files, with progress and a way to stop. */

import { find, make } from "../core/dom.js";
import { formOf, postForm } from "../core/server.js";
import { sayFailures } from "./failures.js";

const plates = find(document, "#plates", HTMLElement);
const list = find(document, "#uploads", HTMLElement);
const dropHere = find(document, "#drop-here", HTMLElement);
const picker = find(document, "#open-files", HTMLInputElement);

/** A file on its way: its name, how far it is, and how it ends. */
class Line {
  stopping = new AbortController();

  /** @param {File} file */
  constructor(file) {
    this.bar = make("progress", { max: 1, "aria-label": `Opening ${file.name}` });
    this.note = make("span", { className: "quiet" });
    this.button = make("button", { type: "button", className: "quiet-button", textContent: "Stop" });
    this.button.addEventListener("click", () => this.#pressed());
    this.item = make("li", {}, make("span", { className: "file", textContent: file.name }), this.bar, this.note, this.button);
    list.append(this.item);
  }

  #pressed() {
    if (this.item.classList.contains("failed")) this.item.remove();
    else this.stopping.abort();
  }

  /** @param {number} share */
  progress(share) {
    this.bar.value = share;
    this.note.textContent = share < 1 ? `${Math.round(share * 100)} %` : "reading the picture …";
    if (share >= 1) this.bar.removeAttribute("value");
  }

  /** @param {string} message */
  failed(message) {
    this.item.classList.add("failed");
    this.bar.remove();
    this.note.className = "problem";
    this.note.setAttribute("role", "alert");
    this.note.textContent = message;
    this.button.textContent = "Close";
  }
}

/** @param {File} file @param {File[]} [together] */
async function open(file, together = [file]) {
  const line = new Line(file);
  try {
    const answer = await postForm(plates.dataset.upload ?? "", formOf("picture", together), (share) => line.progress(share), line.stopping.signal);
    plates.innerHTML = answer.html;
    /** @type {any} */ (globalThis).htmx.process(plates);
    line.item.remove();
  } catch (error) {
    const stopped = error instanceof DOMException;
    line.failed(stopped ? "Stopped. The picture was not put on the shelf." : /** @type {Error} */ (error).message);
  }
}

/** Each file by itself; a stack file takes all that were chosen with it along. @param {File[]} files */
async function openAll(files) {
  const stack = files.find(({ name }) => name.toLowerCase().endsWith(".json"));
  if (stack) await open(stack, files);
  else for (const file of files) await open(file);
}

picker.addEventListener("change", () => {
  openAll([...picker.files ?? []]).finally(() => { picker.value = ""; });
});
find(document, "#open-button", HTMLElement).addEventListener("click", () => picker.click());

const carriesFiles = (/** @type {DragEvent} */ event) => event.dataTransfer?.types.includes("Files") ?? false;
document.addEventListener("dragover", (event) => {
  if (!carriesFiles(event)) return;
  event.preventDefault();
  dropHere.hidden = false;
});
document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) dropHere.hidden = true; });
document.addEventListener("drop", (event) => {
  if (!carriesFiles(event)) return;
  event.preventDefault();
  dropHere.hidden = true;
  openAll([...event.dataTransfer?.files ?? []]);
});
document.addEventListener("paste", (event) => {
  const files = [...event.clipboardData?.files ?? []];
  if (files.length) openAll(files);
});
sayFailures();
