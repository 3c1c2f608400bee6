/** Opening pictures: a file, many, a whole folder; one line with the progress of all, which can be stopped. */

import { find, make } from "../core/dom.js";
import { say } from "../core/says.js";
import { formOf, post, postForm } from "../core/server.js";

/** @typedef {import("./view.js").View} View */

/** The endings of what can be opened, as the server lists them. */
const READABLE = new RegExp(`\\.(${(find(document, "#uploads", HTMLElement).dataset.readable ?? "").replaceAll(".", "").replaceAll(" ", "|")})$`, "i");
/** How many travel at once: while one is read by the server the next is on its way. */
const AT_ONCE = 2;
/** Milliseconds between looks at the shelf while many are opened. */
const SHOWN_EVERY = 2500;
const MINUTE = 60;

/** @param {number} seconds */
const leftWords = (seconds) => (seconds < MINUTE ? `about ${Math.ceil(seconds)} s left` : `about ${Math.ceil(seconds / MINUTE)} min left`);

/** Files on their way: what they are, how far they are, and how that ends. */
class Line {
  stopping = new AbortController();

  /** @param {HTMLElement} list @param {string} words */
  constructor(list, words) {
    this.bar = make("progress", { max: 1, "aria-label": words });
    this.note = make("span", { className: "quiet" });
    this.button = make("button", { type: "button", className: "quiet-button", textContent: "Stop" });
    this.button.addEventListener("click", () => (!this.bar.isConnected ? this.item.remove() : this.stopping.abort()));
    this.item = make("li", {}, make("span", { className: "file", textContent: words }), this.bar, this.note, this.button);
    list.append(this.item);
  }

  /** @param {number} share @param {string} words */
  progress(share, words) {
    this.bar.value = share;
    this.note.textContent = words;
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

  /** What was decided for a file, with the way to decide otherwise. @param {{ says: string, url: string }} asked */
  asks({ says, url }) {
    this.bar.remove();
    this.note.textContent = says;
    this.note.append(" ", make("a", { href: url, textContent: "Choose" }));
    this.item.classList.add("asks");
    this.button.textContent = "Leave it so";
  }
}

export class Opening {
  /** @param {View} view */
  constructor(view) {
    this.view = view;
    this.list = find(document, "#uploads", HTMLElement);
    this.url = this.list.dataset.upload ?? "";
    this.#bind("#open-button", "#open-files", (files) => this.open(files));
    this.#bind("#folder-button", "#open-folder", (files) => this.#openFolder(files));
  }

  /** @param {string} button @param {string} picker @param {(files: File[]) => Promise<unknown>} open */
  #bind(button, picker, open) {
    const input = find(document, picker, HTMLInputElement);
    find(document, button, HTMLElement).addEventListener("click", () => input.click());
    input.addEventListener("change", () => {
      open([...input.files ?? []]).finally(() => { input.value = ""; });
    });
  }

  /** A stack file takes all that were chosen with it along; anything else goes by itself. @param {File[]} files @param {string} [shoot] */
  async open(files, shoot = this.view.shoot) {
    const stack = files.find(({ name }) => name.toLowerCase().endsWith(".json"));
    if (stack) await this.#one(stack, files, shoot);
    else if (files.length === 1) await this.#one(files[0], files, shoot);
    else if (files.length) await this.#many(files, shoot);
  }

  /** @param {File[]} files */
  async #openFolder(files) {
    const readable = files.filter(({ name }) => READABLE.test(name) && !name.startsWith(".")).toSorted((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
    const folder = files[0]?.webkitRelativePath.split("/")[0] ?? "";
    if (!readable.length) {
      say(`There is no picture in ${folder || "that folder"} that can be read. Nothing was changed.`);
      return;
    }
    let { shoot } = this.view;
    if (!shoot && folder) {
      const made = await this.view.deed("/shoots", { name: folder.slice(0, 80), plates: [] });
      if (!made) return;
      shoot = String(made.shoot);
      await this.view.look(made.url);
    }
    await this.open(readable, shoot);
  }

  /** @param {string} shoot @param {boolean} [many] */
  #fields(shoot, many = false) { return { ...(shoot && { shoot }), ...(many && { one_of_many: "yes" }) }; }

  /** @param {File} file @param {File[]} together @param {string} shoot */
  async #one(file, together, shoot) {
    const line = new Line(this.list, file.name);
    try {
      const told = (/** @type {number} */ share) => line.progress(share, share < 1 ? `${Math.round(share * 100)} %` : "reading the picture …");
      const answer = await this.#send(together, shoot, told, line.stopping.signal);
      this.view.swap(answer.html);
      if (answer.asks) line.asks(answer.asks);
      else line.item.remove();
    } catch (error) {
      line.failed(error instanceof DOMException ? "Stopped. The picture was not put on the shelf." : /** @type {Error} */ (error).message);
    }
  }

  /** @param {File[]} files @param {string} shoot @param {(share: number) => void} told @param {AbortSignal} [signal] @param {boolean} [many] */
  #send(files, shoot, told, signal, many) {
    const form = formOf("picture", files);
    for (const [name, value] of Object.entries(this.#fields(shoot, many))) form.append(name, value);
    return postForm(this.url, form, told, signal, this.view.headers);
  }

  /** @param {File[]} files @param {string} shoot */
  async #many(files, shoot) {
    const line = new Line(this.list, `${files.length} pictures`);
    const { signal } = line.stopping;
    const begun = performance.now();
    const waiting = [...files];
    let [done, shown] = [0, begun];
    const next = async () => {
      for (let file = waiting.shift(); file && !signal.aborted; file = waiting.shift()) {
        await this.#ofMany(file, shoot);
        done += 1;
        const left = (performance.now() - begun) / 1000 / done * (files.length - done);
        line.progress(done / files.length, `${done} of ${files.length}, ${leftWords(left)}`);
        if (performance.now() - shown > SHOWN_EVERY) {
          shown = performance.now();
          await this.#refresh();
        }
      }
    };
    line.progress(0, "on their way …");
    signal.addEventListener("abort", () => { line.note.textContent = "stopping: those on their way arrive …"; });
    await Promise.all(Array.from({ length: AT_ONCE }, next));
    await this.#refresh();
    if (signal.aborted && done < files.length) line.failed(`Stopped after ${done} of ${files.length}; the others were left where they are.`);
    else line.item.remove();
  }

  /** One of many: a failure gets a line of its own, and the others go on. What is on its way arrives though the rest is stopped. @param {File} file @param {string} shoot */
  async #ofMany(file, shoot) {
    try {
      await this.#send([file], shoot, () => {}, undefined, true);
    } catch (error) {
      new Line(this.list, file.name).failed(/** @type {Error} */ (error).message);
    }
  }

  #refresh() { return post("/plates/view", {}, undefined, this.view.headers).then(({ html }) => this.view.swap(html), () => {}); }
}
