/** The page of kits: read from files, shown on another plate. */

import { find } from "../core/dom.js";
import { say } from "../core/says.js";
import { formOf, postForm, Refusal } from "../core/server.js";
import { sayFailures } from "./failures.js";

const list = find(document, "#kit-list", HTMLElement);
const trouble = find(document, "#kit-trouble", HTMLElement);
const picker = find(document, "#kit-files", HTMLInputElement);
const instead = find(trouble, "button", HTMLButtonElement);
/** What could not be kept because a kit is called so already. @type {{ files: File[], taken: number } | null} */
let waiting = null;

/** @param {File[]} files @param {number} [taken] the kit it takes the place of */
async function read(files, taken) {
  if (!files.length) return;
  const form = formOf("kit", files);
  if (taken) form.append("instead", String(taken));
  trouble.hidden = true;
  try {
    const { html, made } = await postForm(list.dataset.read ?? "", form);
    list.innerHTML = html;
    /** @type {any} */ (globalThis).htmx.process(list);
    say(made.length === 1 ? "The kit is kept." : `${made.length} kits are kept.`);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    find(trouble, "span", HTMLElement).textContent = error.message;
    waiting = error.body?.taken ? { files, taken: error.body.taken } : null;
    instead.hidden = !waiting;
    trouble.hidden = false;
  }
}

instead.addEventListener("click", () => waiting && read(waiting.files, waiting.taken));
find(document, "#read-button", HTMLElement).addEventListener("click", () => picker.click());
picker.addEventListener("change", () => {
  read([...picker.files ?? []]).finally(() => { picker.value = ""; });
});
document.addEventListener("dragover", (event) => { if (event.dataTransfer?.types.includes("Files")) event.preventDefault(); });
document.addEventListener("drop", (event) => {
  if (!event.dataTransfer?.files.length) return;
  event.preventDefault();
  read([...event.dataTransfer.files]);
});
document.querySelector(".shown-on select")?.addEventListener("change", ({ target }) => /** @type {HTMLSelectElement} */ (target).form?.submit());
sayFailures();
