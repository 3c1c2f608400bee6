/** Elements of SVG, made rather than written as text. */

const SVG = "http://www.w3.org/2000/svg";

export function element(name, attributes) {
  const made = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  return made;
}
