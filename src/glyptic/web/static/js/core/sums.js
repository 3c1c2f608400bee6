/** Numbers as they are typed: with a comma or a point, a unit behind them, or as a small sum. */

const SIGNS = /\s*(?:(\d+(?:[.,]\d*)?|[.,]\d+)|([-+*/()×÷−]))/y;
const SAME = { "×": "*", "÷": "/", "−": "-" };

/** The numbers and signs of a text; null where there is anything else but a unit at its end. @param {string} text */
function parts(text) {
  const found = [];
  const tidy = text.replace(/(?:\s*[%°a-zA-Z]+)?\s*$/, "");
  for (SIGNS.lastIndex = 0; SIGNS.lastIndex < tidy.length;) {
    const match = SIGNS.exec(tidy);
    if (!match) return null;
    found.push(match[1] === undefined ? SAME[/** @type {keyof SAME} */ (match[2])] ?? match[2] : Number(match[1].replace(",", ".")));
  }
  return found;
}

/** Reads sums by the rules of arithmetic: products before sums, brackets before both. */
class Sum {
  /** @param {(string | number)[]} signs */
  constructor(signs) {
    this.signs = signs;
    this.at = 0;
  }

  /** @param {string[]} wanted */
  #next(...wanted) {
    const here = this.signs[this.at];
    if (typeof here !== "string" || !wanted.includes(here)) return "";
    this.at += 1;
    return here;
  }

  sum() {
    let value = this.#product();
    for (let sign = this.#next("+", "-"); sign; sign = this.#next("+", "-")) value += (sign === "+" ? 1 : -1) * this.#product();
    return value;
  }

  #product() {
    let value = this.#one();
    for (let sign = this.#next("*", "/"); sign; sign = this.#next("*", "/")) value = sign === "*" ? value * this.#one() : value / this.#one();
    return value;
  }

  /** @returns {number} */
  #one() {
    const sign = this.#next("+", "-");
    if (sign) return (sign === "-" ? -1 : 1) * this.#one();
    if (this.#next("(")) {
      const value = this.sum();
      return this.#next(")") ? value : Number.NaN;
    }
    const here = this.signs[this.at];
    this.at += 1;
    return typeof here === "number" ? here : Number.NaN;
  }
}

/** The number a text stands for, or null: "12,5", "80 %", "3*12+4", "(80-20)/2". @param {string} text */
export function numberOf(text) {
  const signs = parts(text);
  if (!signs?.length) return null;
  const sum = new Sum(signs);
  const value = sum.sum();
  return sum.at === signs.length && Number.isFinite(value) ? value : null;
}

/** A number as the page writes it: without needless zeros, at most `digits` behind the point. @param {number} value @param {number} [digits] */
export const written = (value, digits = 2) => value.toFixed(digits).replace(/(\.\d*?)0+$/, "$1").replace(/\.$/, "").replace(/^-0$/, "0");
