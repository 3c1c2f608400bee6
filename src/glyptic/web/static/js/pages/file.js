/** The page of a plate's file: a raw file is developed live as its bars are moved. */

const form = /** @type {HTMLFormElement | null} */ (document.querySelector("#development"));
const picture = /** @type {HTMLImageElement | null} */ (document.querySelector("#developed"));
const says = document.querySelector("#developing");
const PAUSE = 180;
let later = 0;
let busy = false;
let again = false;

/** What a bar is set to, in words. @param {HTMLInputElement} bar */
function tell(bar) {
  const shown = bar.parentElement?.querySelector("output");
  if (shown) shown.textContent = `${Number(bar.value).toLocaleString("en", { maximumFractionDigits: 2 })} ${shown.dataset.unit ?? ""}`;
}

/** Ask for the picture as the form is set; while one is on its way, the next one waits. */
function develop() {
  if (!form || !picture || !says) return;
  if (busy) {
    again = true;
    return;
  }
  busy = true;
  says.textContent = "Developing …";
  const asked = new URLSearchParams();
  for (const [name, value] of new FormData(form)) if (name !== "csrf_token" && name !== "revision") asked.set(name, String(value));
  picture.src = `${picture.dataset.from}?${asked}`;
}

function arrived() {
  busy = false;
  if (says) says.textContent = "The raw file as it is developed; layers are not shown here.";
  if (again) {
    again = false;
    develop();
  }
}

picture?.addEventListener("load", arrived);
picture?.addEventListener("error", () => {
  busy = false;
  if (says) says.textContent = "This light cannot be worked out for this camera; take it as the camera set it.";
});
form?.addEventListener("input", ({ target }) => {
  if (target instanceof HTMLInputElement) tell(target);
  const light = form.elements.namedItem("light");
  if (target instanceof HTMLElement && "light" in target.dataset && light instanceof HTMLSelectElement) light.value = "chosen";
  clearTimeout(later);
  later = window.setTimeout(develop, PAUSE);
});
for (const bar of form?.querySelectorAll('input[type="range"]') ?? []) if (bar instanceof HTMLInputElement) tell(bar);
