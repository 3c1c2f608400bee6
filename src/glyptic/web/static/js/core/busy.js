/** Whether anything is under way: `body[data-busy]` stands while it is, for assistive tools and tests to wait on. */

let under = 0;

let hands = 0;

/** Whether a hand is drawing: nothing is prepared for later while it is. */
export const isDrawing = () => hands > 0;

export function begin() {
  under += 1;
  document.body.dataset.busy = "";
}

export function end() {
  under -= 1;
  setTimeout(() => { if (!under) delete document.body.dataset.busy; });
}

/** Count what a hand draws as under way until it ends. @param {Promise<void>} drawn */
export function drawing(drawn) {
  hands += 1;
  const ended = () => { hands -= 1; };
  drawn.then(ended, ended);
  return busyWith(drawn);
}

/**
 * Count a promise as under way until it ends.
 * @template T
 * @param {Promise<T>} promise
 */
export function busyWith(promise) {
  begin();
  promise.then(end, end);
  return promise;
}
