/** Whether anything is under way: `body[data-busy]` stands while it is, for assistive tools and tests to wait on. */

let under = 0;

export const isBusy = () => under > 0;

export function begin() {
  under += 1;
  document.body.dataset.busy = "";
}

export function end() {
  under -= 1;
  setTimeout(() => { if (!under) delete document.body.dataset.busy; });
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
