/** Requests to the server: JSON in, JSON out, errors as the server's own sentences. */

import { busyWith } from "./busy.js";

const token = document.querySelector('meta[name="csrf-token"]').content;
export const UNREACHABLE = "The server does not answer. Nothing that was kept is lost; is Glyptic still running?";

/** An answer that is not 2xx: its status, its sentence, and the whole body (a stale edit brings the current state). */
export class Refusal extends Error {
  constructor(status, body) {
    super(body?.message ?? "Something went wrong. Nothing that was kept is lost.");
    this.status = status;
    this.body = body;
  }
}

/** Ask, and read the answer; under way until it is read. */
function request(url, options, read) { return busyWith(send(url, options).then(read)); }

const readJson = (response) => response.json();

async function send(url, options) {
  let response;
  try {
    response = await fetch(url, { ...options, headers: { Accept: "application/json", "X-CSRFToken": token, ...options.headers } });
  } catch {
    throw new Refusal(0, { message: UNREACHABLE });
  }
  if (!response.ok) {
    throw new Refusal(response.status, await response.json().catch(() => null));
  }
  return response;
}

const asJson = (body) => ({ method: "POST", body: JSON.stringify(body), headers: { "Content-Type": "application/json" } });

/** POST a JSON body; the answer's JSON. */
export const post = (url, body) => request(url, asJson(body), readJson);

/** POST a JSON body; the answer's head (JSON) and what follows it. */
export async function postForFramed(url, body) {
  const bytes = await request(url, asJson(body), (response) => response.arrayBuffer());
  const length = new DataView(bytes).getUint32(0, true);
  return { head: JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))), content: bytes.slice(4 + length) };
}

/** POST a form (a file among its fields); the answer's JSON. */
export const postForm = (url, form) => request(url, { method: "POST", body: form }, readJson);

/** GET JSON. */
export const get = (url) => request(url, {}, readJson);

/** GET HTML. */
export const getHtml = (url) => request(url, { headers: { Accept: "text/html", "HX-Request": "true" } }, (response) => response.text());

/** POST files with their progress told to `onShare` (0..1 while they travel); the answer's JSON. */
export function upload(url, files, onShare) {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    for (const file of files) form.append("picture", file);
    const travel = new XMLHttpRequest();
    travel.open("POST", url);
    travel.setRequestHeader("X-CSRFToken", token);
    travel.setRequestHeader("Accept", "application/json");
    travel.responseType = "json";
    travel.upload.addEventListener("progress", (event) => event.lengthComputable && onShare(event.loaded / event.total));
    travel.addEventListener("load", () =>
      travel.status < 300 ? resolve(travel.response) : reject(new Refusal(travel.status, travel.response)),
    );
    travel.addEventListener("error", () => reject(new Refusal(0, { message: UNREACHABLE })));
    travel.send(form);
  });
}
