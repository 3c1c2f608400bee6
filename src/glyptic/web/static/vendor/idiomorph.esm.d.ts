/** What the page uses of Idiomorph. */
export const Idiomorph: { morph(old: Element, made: Element, options: Record<string, unknown>): void };
