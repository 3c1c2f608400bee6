/** Pages made of fragments: what the server refused, or a server that is silent, said in words. */

import { say } from "../core/says.js";

/** What to do with the words of a refusal; they are shown unless told otherwise. @param {(message: string) => void} [told] */
export function sayFailures(told = say) {
  document.body.addEventListener("htmx:responseError", (event) => {
    const page = new DOMParser().parseFromString(/** @type {CustomEvent} */ (event).detail.xhr.responseText, "text/html");
    told(page.body.textContent?.trim() || "That did not work. Nothing was changed.");
  });
  document.body.addEventListener("htmx:sendError", () => told("The server does not answer. Nothing was changed; is Glyptic still running?"));
}
