/** A sentence shown for a while at the bottom of the page. */

const box = document.querySelector("#says");
let timer = 0;

export function say(sentence, seconds = 8) {
  box.querySelector("span").textContent = sentence;
  box.hidden = false;
  clearTimeout(timer);
  timer = setTimeout(() => { box.hidden = true; }, seconds * 1000);
}

box.querySelector("button").addEventListener("click", () => { box.hidden = true; });
