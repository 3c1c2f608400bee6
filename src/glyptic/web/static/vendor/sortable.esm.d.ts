/** What the page uses of SortableJS. */
export default class Sortable {
  constructor(element: HTMLElement, options: Record<string, unknown>);
  destroy(): void;
}
