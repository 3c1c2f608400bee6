/** Bars: a range that shows how far it is filled. */

export function fillBars(within = document) {
  for (const bar of within.querySelectorAll("input.bar")) {
    const low = Number(bar.min);
    const share = (Number(bar.value) - low) / (Number(bar.max) - low || 1);
    bar.style.setProperty("--filled", `${100 * Math.min(1, Math.max(0, share))}%`);
  }
}

document.addEventListener("input", ({ target }) => { if (target.matches("input.bar")) fillBars(target.parentElement); });
