// What the scripts find on a page beside themselves, and how freely they may take what an event comes from.

declare const htmx: any;
declare const ol: any;
interface Window { ol: any; htmx: any; swapped: string[] }

// An event of a page comes from one of its elements, mostly a field. What a kind of element does not have is undefined.
interface Event { readonly detail: any }
interface EventTarget {
  closest(selectors: string): HTMLInputElement | null;
  matches(selectors: string): boolean;
  contains(other: any): boolean;
  querySelector(selectors: string): HTMLInputElement | null;
  focus(options?: FocusOptions): void;
  click(): void;
  select(): void;
  dataset: DOMStringMap;
  id: string;
  name: string;
  type: string;
  value: any;
  checked: boolean;
  disabled: boolean;
  form: HTMLFormElement | null;
  // Of forms, tables, dialogs, details, links and pictures.
  elements: any;
  action: string;
  rows: any;
  cells: any;
  cellIndex: number;
  returnValue: string;
  open: boolean;
  hash: string;
  search: string;
  viewBox: SVGAnimatedRect;
  getScreenCTM(): DOMMatrix;
  offsetHeight: number;
  offsetWidth: number;
}
interface PerformanceEntry { readonly type: string }
interface Element { showModal(): void; defaultValue: string; selectionStart: number; selectionEnd: number; setRangeText: HTMLInputElement["setRangeText"] }
