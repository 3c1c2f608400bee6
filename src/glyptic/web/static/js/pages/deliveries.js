/** The page of deliveries: what does not go with the format or the size that is chosen is out of sight. */

/** Which fields belong to which way of sizing. @type {Record<string, string[]>} */
const SIZED = { longest: ["long_edge"], shortest: ["long_edge"], exact: ["width", "height"], megapixels: ["megapixels"], print: ["millimetres", "dpi"] };
const SIDES = new Set(Object.values(SIZED).flat());
const LOSSY = new Set(["jpg", "webp", "avif", "jxl"]);
const DEEP = new Set(["png", "tif"]);

/** @param {HTMLFormElement} form */
function show(form) {
  const value = (/** @type {string} */ name) => /** @type {HTMLSelectElement} */ (form.elements.namedItem(name)).value;
  const format = value("format");
  const wanted = new Set(SIZED[value("sized")]);
  for (const row of form.querySelectorAll("[data-field-of]")) {
    const name = row.getAttribute("data-field-of") ?? "";
    let shown = !SIDES.has(name) || wanted.has(name);
    if (name === "quality" || name === "most_kb") shown = LOSSY.has(format);
    if (name === "packed") shown = format === "tif";
    if (name === "depth") shown = DEEP.has(format);
    if (name === "sharpen_amount") shown = value("sharpen") !== "none";
    row.toggleAttribute("hidden", !shown);
  }
  if (!DEEP.has(format)) /** @type {HTMLSelectElement} */ (form.elements.namedItem("depth")).value = "8";
  if (!LOSSY.has(format)) /** @type {HTMLInputElement} */ (form.elements.namedItem("most_kb")).value = "0";
}

for (const form of document.querySelectorAll("form.delivery-form")) {
  if (!(form instanceof HTMLFormElement)) continue;
  form.addEventListener("change", () => show(form));
  show(form);
}
