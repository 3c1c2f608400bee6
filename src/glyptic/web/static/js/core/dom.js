/** Elements: those that must be there, with their type, and new ones, made rather than written as text. */

const SVG = "http://www.w3.org/2000/svg";

/**
 * The first element under `root` that a selector names. Throws where there is none of that type.
 * @template {Element} T
 * @param {ParentNode} root
 * @param {string} selector
 * @param {new (...args: any[]) => T} type
 * @returns {T}
 */
export function find(root, selector, type) {
  const found = root.querySelector(selector);
  if (!(found instanceof type)) throw new TypeError(`no ${type.name} at ${selector}`);
  return found;
}

/**
 * The first element under `root` that a selector names, or null.
 * @template {Element} T
 * @param {ParentNode} root
 * @param {string} selector
 * @param {new (...args: any[]) => T} type
 * @returns {T | null}
 */
export function maybe(root, selector, type) {
  const found = root.querySelector(selector);
  return found instanceof type ? found : null;
}

/**
 * All elements under `root` that a selector names and that are of a type.
 * @template {Element} T
 * @param {ParentNode} root
 * @param {string} selector
 * @param {new (...args: any[]) => T} type
 * @returns {T[]}
 */
export function all(root, selector, type) {
  return /** @type {T[]} */ ([...root.querySelectorAll(selector)].filter((one) => one instanceof type));
}

/**
 * A new element of HTML.
 * @template {keyof HTMLElementTagNameMap} N
 * @param {N} name
 * @param {Record<string, unknown>} [properties]
 * @param {(Node | string)[]} children
 * @returns {HTMLElementTagNameMap[N]}
 */
export function make(name, properties = {}, ...children) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(properties)) {
    if (key.includes("-")) made.setAttribute(key, String(value));
    else Object.assign(made, { [key]: value });
  }
  made.append(...children);
  return made;
}

/**
 * A new element of SVG.
 * @param {string} name
 * @param {Record<string, unknown>} [attributes]
 * @param {(Node | string)[]} children
 */
export function drawn(name, attributes = {}, ...children) {
  const made = /** @type {SVGElement} */ (document.createElementNS(SVG, name));
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, String(value));
  made.append(...children);
  return made;
}

/** A drawn sign of the page's sheet of signs. @param {string} name */
export const sign = (name) => drawn("svg", { class: "sign", "aria-hidden": "true" }, drawn("use", { href: `#sign-${name}` }));

/** A value kept between two others. @param {number} value @param {number} low @param {number} high */
export const clamp = (value, low, high) => Math.min(high, Math.max(low, value));
