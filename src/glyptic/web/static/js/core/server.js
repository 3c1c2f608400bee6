/** Requests to the server: JSON in, JSON out, errors as the server's own sentences. */

import { busyWith } from "./busy.js";
import { find } from "./dom.js";

const token = find(document, 'meta[name="csrf-token"]', HTMLMetaElement).content;
export const UNREACHABLE = "The server does not answer. Nothing that was kept is lost; is Glyptic still running?";

/** An answer that is not 2xx: its status, its sentence, and the whole body (a stale edit brings the current state). */
export class Refusal extends Error {
  /** @param {number} status @param {any} body */
  constructor(status, body) {
    super(body?.message ?? "Something went wrong. Nothing that was kept is lost.");
    this.status = status;
    this.body = body;
  }

  /** Whether the failure is one that passes: silence, a full disk, a fault of the server. */
  get passes() { return !this.status || this.status >= 500; }
}

/**
 * Ask, and read the answer; under way until it is read.
 * @template T
 * @param {string} url
 * @param {RequestInit} options
 * @param {(response: Response) => Promise<T>} read
 */
function request(url, options, read) { return busyWith(send(url, options).then(read)); }

/** @param {Response} response */
const readJson = (response) => response.json();

/** @param {string} url @param {RequestInit} options */
async function send(url, options) {
  let response;
  try {
    response = await fetch(url, { ...options, headers: { Accept: "application/json", "X-CSRFToken": token, ...options.headers } });
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Refusal(0, { message: UNREACHABLE });
  }
  if (!response.ok) {
    throw new Refusal(response.status, await response.json().catch(() => null));
  }
  return response;
}

/** @param {unknown} body @param {AbortSignal} [signal] @param {Record<string, string>} [headers] */
const asJson = (body, signal, headers = {}) => ({ method: "POST", body: JSON.stringify(body), signal, headers: { "Content-Type": "application/json", ...headers } });

/** POST a JSON body; the answer's JSON. @param {string} url @param {unknown} body @param {AbortSignal} [signal] @param {Record<string, string>} [headers] */
export const post = (url, body, signal, headers) => request(url, asJson(body, signal, headers), readJson);

/** The same, for what nobody waits for. @param {string} url @param {unknown} body */
export const postQuietly = (url, body) => send(url, asJson(body)).then(readJson);

/** POST a JSON body; the answer's head (JSON) and what follows it. @param {string} url @param {unknown} body */
export async function postForFramed(url, body) {
  const bytes = await request(url, asJson(body), (response) => response.arrayBuffer());
  const length = new DataView(bytes).getUint32(0, true);
  return { head: JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))), content: bytes.slice(4 + length) };
}

/** GET JSON. @param {string} url */
export const get = (url) => request(url, {}, readJson);

/** POST a JSON body; the answer's HTML. @param {string} url @param {unknown} body */
export const postForHtml = (url, body) => request(url, asJson(body), (response) => response.text());

/** GET HTML. @param {string} url */
export const getHtml = (url) => request(url, { headers: { Accept: "text/html", "HX-Request": "true" } }, (response) => response.text());

/**
 * POST a form with files, their progress told to `onShare` (0..1 while they travel); the answer's JSON.
 * @param {string} url
 * @param {FormData} form
 * @param {(share: number) => void} [onShare]
 * @param {AbortSignal} [signal]
 * @param {Record<string, string>} [headers]
 * @returns {Promise<any>}
 */
export function postForm(url, form, onShare = () => {}, signal, headers = {}) {
  return busyWith(new Promise((resolve, reject) => {
    const travel = new XMLHttpRequest();
    travel.open("POST", url);
    travel.setRequestHeader("X-CSRFToken", token);
    travel.setRequestHeader("Accept", "application/json");
    for (const [name, value] of Object.entries(headers)) travel.setRequestHeader(name, value);
    travel.responseType = "json";
    travel.upload.addEventListener("progress", (event) => event.lengthComputable && onShare(event.loaded / event.total));
    travel.addEventListener("load", () =>
      travel.status < 300 ? resolve(travel.response) : reject(new Refusal(travel.status, travel.response)),
    );
    travel.addEventListener("error", () => reject(new Refusal(0, { message: UNREACHABLE })));
    travel.addEventListener("abort", () => reject(new DOMException("stopped", "AbortError")));
    signal?.addEventListener("abort", () => travel.abort());
    travel.send(form);
  }));
}

/** A form of files under one name, and the request beside them. @param {string} name @param {Iterable<File>} files @param {unknown} [asked] */
export function formOf(name, files, asked) {
  const form = new FormData();
  for (const file of files) form.append(name, file);
  if (asked !== undefined) form.append("request", JSON.stringify(asked));
  return form;
}
