/** Checks: run one after the other on the work as it is, shown with their place, mended, or left as they are. */

import { all, clamp, drawn, find, make, maybe } from "../core/dom.js";
import { say } from "../core/says.js";
import { getHtml, post, Refusal } from "../core/server.js";
import { keep, recall } from "../core/store.js";
import { frameOnto } from "../canvas/plane.js";

/**
 * @typedef {import("../core/bench.js").Bench} Bench
 * @typedef {{ title: string, help: string, path: string, body: any }} Mend
 * @typedef {{ check: string, title: string, says: string, layer: string, of: string, why: string | null, rect: number[] | null, path: number[][][], worth: number, mends: Mend[] }} Finding
 */

const RESTING = "glyptic-checks-rest";
/** A while after the last change, where checks look by themselves. */
const REST = 1500;
/** How much of the stage a place that is zoomed to takes up, and how far at most it is zoomed. */
const TAKES = 0.34;
const LARGEST = 2;
const LEAST_OVAL = 12;
/** What the server answers where the plate was changed while it looked. */
const CHANGED = 409;
const worstFirst = (/** @type {Finding} */ a, /** @type {Finding} */ b) => b.worth - a.worth;

export class Checks {
  /** @type {Finding[]} */
  #found = [];
  #chosen = "";
  /** The state that was looked at last, whole. */
  #looked = "";
  /** @type {AbortController | null} */
  #running = null;
  #timer = 0;
  /** Names of the checks, in their order. @type {string[]} */
  #names = [];

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    this.panel = find(bench.root, "#checks", HTMLElement);
    this.list = find(this.panel, "#check-list", HTMLElement);
    this.rest = find(this.panel, "#checks-rest", HTMLInputElement);
    this.lit = bench.layerOf("lit");
    this.veil = find(bench.stage, "#subject-veil", HTMLElement);
    this.rest.checked = recall(RESTING, false);
    this.#bindPanel();
    this.#bindFindings();
    this.#bindSubject();
    this.#follow();
  }

  #bindPanel() {
    const { events, keys, panels } = this.bench;
    keys.bind("checks", () => this.#openAndRun());
    events.on("click", "#run-checks", () => this.run());
    events.on("change", "#checks-rest", () => {
      keep(RESTING, this.rest.checked);
      this.#soon();
    });
    events.on("change", "[data-threshold]", (_, field) => this.#threshold(field.dataset.threshold, Number(field.value) / Number(field.dataset.factor)));
    events.on("click", "[data-threshold-home]", (_, { dataset }) => this.#threshold(dataset.thresholdHome, null));
    panels.addEventListener("opened", (event) => { if (/** @type {CustomEvent} */ (event).detail === "checks") this.#opened(); });
    panels.addEventListener("closed", (event) => { if (/** @type {CustomEvent} */ (event).detail === "checks") this.#draw(); });
  }

  #bindFindings() {
    const { events } = this.bench;
    events.on("click", "[data-finding]", (_, { dataset }) => this.#goTo(dataset.finding));
    events.on("click", "[data-mends]", (_, { dataset }) => this.#mend(dataset.mendOf, Number(dataset.mends)));
    events.on("click", "[data-leave]", (_, { dataset }) => this.#askWhy(dataset.leave));
    events.on("submit", ".why", (event, form) => {
      event.preventDefault();
      this.#leave(form.dataset.of, find(form, "input", HTMLInputElement).value);
    });
    events.on("click", "[data-take-up]", (_, { dataset }) => this.#note("take-up-finding", { of: dataset.takeUp }));
  }

  /** What happens to the plate: an edit stops the checks; the list follows what is left and taken up. */
  #follow() {
    const { session, canvas, showing } = this.bench;
    session.addEventListener("state", (event) => {
      const { before } = /** @type {CustomEvent} */ (event).detail;
      if (before.root === session.state.root) return;
      this.#running?.abort();
      this.#soon();
      if (!this.#found.length && this.bench.panels.now !== "checks") return;
      const left = new Map((session.state.notes.left ?? []).map((/** @type {any} */ one) => [one.of, one.why ?? ""]));
      for (const finding of this.#found) finding.why = left.get(finding.of) ?? null;
      this.#show();
    });
    canvas.addEventListener("moved", () => this.#draw());
    showing.addEventListener("view", () => this.#draw());
    if (this.rest.checked) this.#soon();
    this.#count();
  }

  /** Look again a while after the last change, where that is wanted. */
  #soon() {
    clearTimeout(this.#timer);
    if (this.rest.checked) this.#timer = setTimeout(() => { if (!this.bench.events.dragging) this.run(); }, REST);
  }

  #openAndRun() {
    if (this.bench.panels.now !== "checks") this.bench.panels.open("checks");
    else this.run();
  }

  #opened() {
    if (this.#looked === this.bench.session.state.root) this.#show();
    else this.run();
  }

  /** Have the list of checks with their thresholds, from which they are run; false where it did not come. */
  async #listed() {
    const list = find(this.panel, "#check-thresholds ul", HTMLElement);
    try {
      if (!list.children.length) list.innerHTML = await getHtml(`${this.bench.session.url}checks`);
    } catch (error) {
      this.bench.session.complain(error);
      return false;
    }
    this.#names = all(list, "[data-check]", HTMLElement).map((line) => line.dataset.check ?? "");
    return true;
  }

  /** @param {string} text */
  #tell(text) { find(this.panel, "#checks-say", HTMLElement).textContent = text; }

  /** Run every check on the work as it is; an edit, or another run, stops it. */
  async run() {
    const { session } = this.bench;
    if (!await this.#listed()) return;
    this.#running?.abort();
    const running = this.#running = new AbortController();
    const number = crypto.randomUUID();
    running.signal.addEventListener("abort", () => { post(`${session.url}stop`, { number }).catch(() => {}); });
    const { root, revision } = session.state;
    this.#looked = "";
    /** @type {Finding[]} */
    const found = [];
    let done = 0;
    for (const name of this.#names) {
      this.#tell(`looking … ${Math.round((done / this.#names.length) * 100)} %`);
      try {
        const answer = await post(`${session.url}checks/${name}`, { number }, running.signal);
        if (running.signal.aborted || answer.revision !== revision) return;
        found.push(...answer.findings);
      } catch (error) {
        if (running.signal.aborted) return;
        this.#running = null;
        if (!(error instanceof Refusal)) throw error;
        if (error.status === CHANGED) this.#tell("the work has changed since");
        else say(error.message);
        return;
      }
      done += 1;
      const others = this.#found.filter((one) => this.#names.indexOf(one.check) >= done);
      this.#found = [...found, ...others].toSorted(worstFirst);
      this.#show();
    }
    this.#found = found.toSorted(worstFirst);
    this.#looked = root;
    this.#running = null;
    this.#show();
  }

  get #open() { return this.#found.filter((one) => one.why === null); }

  #count() {
    const badge = find(this.bench.root, "#check-count", HTMLElement);
    badge.textContent = String(this.#open.length);
    badge.hidden = !this.#open.length;
  }

  /** The list, as it is now. */
  #show() {
    this.#count();
    const { session } = this.bench;
    const isNow = this.#looked === session.state.root;
    const open = this.#open;
    if (!this.#running) this.#tell(!this.#looked ? "" : isNow ? `${open.length || "nothing"} found` : "the work has changed since");
    const none = isNow && !open.length ? [make("li", { className: "quiet", textContent: "Nothing found: no check has anything to say about the work as it is." })] : [];
    const focused = document.activeElement instanceof HTMLElement && this.list.contains(document.activeElement) ? document.activeElement.dataset.finding : undefined;
    this.list.replaceChildren(...open.map((one) => this.#line(one)), ...none);
    if (focused) maybe(this.list, `[data-finding="${focused}"]`, HTMLElement)?.focus({ preventScroll: true });
    this.#showLeft();
    find(this.panel, "#unmark-subject", HTMLElement).hidden = !session.state.notes.subject;
    this.#draw();
  }

  #showLeft() {
    const left = this.#found.filter((one) => one.why !== null);
    const box = find(this.panel, "#checks-left", HTMLDetailsElement);
    box.hidden = !left.length;
    find(box, "summary", HTMLElement).textContent = `Left as they are: ${left.length}`;
    find(box, "ol", HTMLElement).replaceChildren(...left.map((one) => make("li", {}, make("span", { textContent: one.says }), make("p", { className: "quiet", textContent: one.why || "no word why" }), this.#button("Take it up again", { "data-take-up": one.of }))));
  }

  /** @param {string} textContent @param {Record<string, unknown>} more */
  #button(textContent, more) { return make("button", { type: "button", className: "quiet-button", textContent, ...more }); }

  /** @param {Finding} one */
  #line(one) {
    const press = make("button", { type: "button", className: "finding", "data-finding": one.of, title: one.rect ? "Zoom to it, and choose the layer that does it" : "Choose the layer that does it", "aria-pressed": String(one.of === this.#chosen) }, make("b", { textContent: one.title }), make("span", { textContent: one.says }));
    const mends = one.mends.map((mend, i) => this.#button(mend.title, { title: mend.help, "data-mends": i, "data-mend-of": one.of }));
    return make("li", {}, press, make("p", { className: "deeds" }, ...mends, this.#button("Leave it", { title: "It stays as it is, with a word why, until what it speaks of changes", "data-leave": one.of })));
  }

  /** @param {string} of */
  #one(of) { return this.#found.find((one) => one.of === of); }

  /** @param {string} of */
  async #goTo(of) {
    const one = this.#one(of);
    if (!one) return;
    const { session, canvas } = this.bench;
    this.#chosen = of;
    if (one.layer && one.layer !== session.chosen) await session.ask("choose", { layer: one.layer });
    if (one.rect) {
      const [x, y, w, h] = one.rect;
      const { width, height } = canvas.place.screen;
      canvas.showPlace(x + w / 2, y + h / 2, Math.min((Math.min(width, height) * TAKES) / Math.max(w, h, 1), LARGEST));
    }
    this.#show();
  }

  /** @param {string} of @param {number} which */
  async #mend(of, which) {
    const one = this.#one(of);
    if (!one) return;
    const { path, body, title } = one.mends[which];
    const { session, waiting } = this.bench;
    const answer = await waiting.during("Mending …", (signal) => session.ask(path, body, { signal }));
    if (!answer) return;
    say(`${title}: done. Undo takes it back.`);
    await this.run();
  }

  /** @param {string} of */
  #askWhy(of) {
    const line = find(this.list, `[data-leave="${of}"]`, HTMLElement).closest("li");
    const field = make("input", { type: "text", maxLength: 300, placeholder: "a word why", "aria-label": "Why it is left as it is", autocomplete: "off" });
    line?.querySelector(".deeds")?.replaceWith(make("form", { className: "why deeds", "data-of": of }, field, make("button", { type: "submit", className: "quiet-button", textContent: "Leave it" })));
    field.focus();
  }

  /** @param {string} of @param {string} why */
  #leave(of, why) {
    const one = this.#one(of);
    if (one) this.#note("leave-finding", { check: one.check, of, why: why.trim() });
  }

  /** Note something about a finding: the work itself is as it was, and need not be looked at again. @param {string} edit @param {any} args */
  async #note(edit, args) {
    const { session } = this.bench;
    const isNow = this.#looked === session.state.root;
    if (await session.edit(edit, args) && isNow) this.#looked = session.state.root;
    this.#show();
  }

  /** @param {string} name @param {number | null} value */
  async #threshold(name, value) {
    const field = find(this.panel, `[data-threshold="${name}"]`, HTMLInputElement);
    try {
      const kept = await post(`${this.bench.session.url}checks/${name}/threshold`, { value });
      field.value = String(Math.round(kept.value * Number(field.dataset.factor) * 1000) / 1000);
      await this.run();
    } catch (error) {
      field.value = field.defaultValue;
      this.bench.session.complain(error);
    }
  }

  /** Light what was found: all faintly while the panel is open, the chosen one strongly; and the subject's oval. */
  #draw() {
    const { canvas, session } = this.bench;
    if (this.bench.panels.now !== "checks") {
      if (this.lit.firstChild) this.lit.replaceChildren();
      return;
    }
    const at = (/** @type {number[]} */ [x, y]) => {
      const screen = canvas.place.onScreen(x, y);
      const stage = canvas.onShown(screen.x, screen.y);
      return `${stage.x.toFixed(1)} ${stage.y.toFixed(1)}`;
    };
    const shapes = this.#open.flatMap((one) => {
      const [x, y, w, h] = one.rect ?? [0, 0, 0, 0];
      const lines = one.path.length ? one.path : one.rect ? [[[x, y], [x + w, y], [x + w, y + h], [x, y + h], [x, y]]] : [];
      const d = lines.map((line) => `M${line.map(at).join("L")}`).join("");
      const state = one.of === this.#chosen ? " chosen" : "";
      return d ? [drawn("path", { class: `fault under${state}`, d }), drawn("path", { class: `fault${state}`, d })] : [];
    });
    const { subject } = session.state.notes;
    if (subject) shapes.push(drawn("path", { class: "subject", d: `M${this.#around(subject).map(at).join("L")}Z` }));
    this.lit.replaceChildren(...shapes);
  }

  /** Points around the subject's oval, where it is shown. @param {{ centre: number[], radii: number[] }} subject */
  #around({ centre: [cx, cy], radii: [rx, ry] }) {
    const onto = frameOnto(this.bench);
    return Array.from({ length: 48 }, (_, i) => {
      const angle = (i / 24) * Math.PI;
      return onto.shown(cx + rx * Math.cos(angle), cy + ry * Math.sin(angle));
    });
  }

  #bindSubject() {
    const { events, session, canvas } = this.bench;
    events.on("click", "#mark-subject", () => {
      this.veil.hidden = false;
      say("Drag an oval over what the eye should be led to, from its middle. Escape gives it up.");
    });
    events.on("click", "#unmark-subject", () => session.edit("mark-subject", { subject: null }));
    events.drag("#subject-veil", (event) => {
      const under = (/** @type {PointerEvent} */ pressed) => {
        const { x, y } = canvas.shownAt(pressed);
        return frameOnto(this.bench).picture(x, y);
      };
      const centre = under(event);
      let radii = [0, 0];
      const close = () => { this.veil.hidden = true; };
      return {
        move: (/** @type {PointerEvent} */ moved) => {
          const [x, y] = under(moved);
          radii = [Math.abs(x - centre[0]), Math.abs(y - centre[1])];
          const line = this.#around({ centre, radii }).map(([px, py]) => {
            const screen = canvas.place.onScreen(px, py);
            const stage = canvas.onShown(screen.x, screen.y);
            return `${stage.x} ${stage.y}`;
          });
          this.lit.replaceChildren(drawn("path", { class: "subject", d: `M${line.join("L")}Z` }));
        },
        end: () => {
          close();
          if (Math.min(...radii) >= LEAST_OVAL) session.edit("mark-subject", { subject: { centre: centre.map(Math.round), radii: radii.map((r) => clamp(Math.round(r), 1, 1e6)) } });
          else this.#draw();
        },
        giveUp: () => {
          close();
          this.#draw();
        },
      };
    });
    events.on("keydown", "#bench", (event) => {
      if (event.key === "Escape" && !this.veil.hidden) this.veil.hidden = true;
      return false;
    });
  }
}
