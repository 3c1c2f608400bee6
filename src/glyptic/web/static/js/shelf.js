/** The shelf: open pictures by choosing or dropping files, with progress. */

import { say } from "./says.js";
import { upload } from "./server.js";

const plates = document.querySelector("#plates");
const list = document.querySelector("#uploads");
const dropHere = document.querySelector("#drop-here");
const picker = document.querySelector("#open-files");

function line(file) {
  const item = document.createElement("li");
  const name = document.createElement("span");
  name.className = "file";
  name.textContent = file.name;
  const bar = document.createElement("progress");
  bar.max = 1;
  const note = document.createElement("span");
  note.className = "quiet";
  item.append(name, bar, note);
  list.append(item);
  return { item, bar, note };
}

function failed({ item, bar, note }, message) {
  item.classList.add("failed");
  bar.remove();
  note.className = "problem";
  note.textContent = message;
  const close = document.createElement("button");
  close.type = "button";
  close.className = "word";
  close.textContent = "Close";
  close.addEventListener("click", () => item.remove());
  item.append(close);
}

async function open(file, together = [file]) {
  const row = line(file);
  try {
    const answer = await upload(plates.dataset.upload, together, (share) => {
      row.bar.value = share;
      row.note.textContent = share < 1 ? `${Math.round(share * 100)} %` : "reading the picture …";
      if (share >= 1) row.bar.removeAttribute("value");
    });
    plates.innerHTML = answer.html;
    globalThis.htmx.process(plates);
    row.item.remove();
  } catch (error) {
    failed(row, error.message);
  }
}

/** Each file by itself; a stack file takes all that were chosen with it along. */
async function openAll(files) {
  const stack = files.find(({ name }) => name.toLowerCase().endsWith(".json"));
  if (stack) await open(stack, files);
  else for (const file of files) await open(file);
}

picker.addEventListener("change", () => {
  openAll([...picker.files]).finally(() => { picker.value = ""; });
});
document.querySelector("#open-button").addEventListener("keydown", (event) => {
  if (event.key === "Enter" || event.key === " ") { event.preventDefault(); picker.click(); }
});

const carriesFiles = (event) => event.dataTransfer?.types.includes("Files");
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
  openAll([...event.dataTransfer.files]);
});
document.body.addEventListener("htmx:responseError", (event) => {
  const page = new DOMParser().parseFromString(event.detail.xhr.responseText, "text/html");
  say(page.body.textContent.trim() || "That did not work. Nothing was changed.");
});
