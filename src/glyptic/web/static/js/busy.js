/** Whether anything is under way: `body[data-busy]` stands while it is, for assistive tools and tests to wait on. */

let under = 0;

export function begin() {
  under += 1;
  document.body.dataset.busy = "";
}

export function end() {
  under -= 1;
  setTimeout(() => { if (!under) delete document.body.dataset.busy; });
}

const PATIENCE = 400;
const waiting = document.querySelector("#waiting");

/** As `busyWith`, and say what is being done where it takes longer than a moment. */
export function working(words, promise) {
  const timer = setTimeout(() => {
    waiting.textContent = words;
    waiting.hidden = false;
  }, PATIENCE);
  promise.finally(() => {
    clearTimeout(timer);
    waiting.hidden = true;
    waiting.textContent = "Working …";
  }).catch(() => {});
  return busyWith(promise);
}

/** Count a promise as under way until it ends. */
export function busyWith(promise) {
  begin();
  promise.then(end, end);
  return promise;
}
