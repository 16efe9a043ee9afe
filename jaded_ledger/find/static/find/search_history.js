// Find: the searches of a window, as they were; only values, no page.

/**
 * A search and the query of the address at which it stands.
 *
 * @typedef {{ search: string, state: string }} Step
 */

/**
 * What lies behind and ahead of the search that is shown; `going` says which way somebody is on, until it is there.
 *
 * @typedef {{ past: Step[], now: Step | null, ahead: Step[], going?: "back" | "ahead" }} SearchHistory
 */

/** So many steps are remembered. */
export const LONGEST = 100;

/** @type {SearchHistory} */
export const EMPTY = { past: [], now: null, ahead: [] };

/**
 * Return the step that going back or ahead leads to.
 *
 * @param {SearchHistory} held
 * @param {"back" | "ahead"} way
 */
export const next = (held, way) => (way === "back" ? held.past : held.ahead).at(-1);

/**
 * Return the history once a search is shown, with the steps in between that came together with it: each is undone by itself.
 *
 * @param {SearchHistory} held
 * @param {Step} shown
 * @param {Step[]} steps
 * @returns {SearchHistory}
 */
export function noted({ past, now, ahead, going }, shown, steps = []) {
  if (now?.search === shown.search) return { past, now: shown, ahead };
  if (going === "back" && past.at(-1)?.search === shown.search) return { past: past.slice(0, -1), now: shown, ahead: [...ahead, now] };
  if (going === "ahead" && ahead.at(-1)?.search === shown.search) return { past: [...past, now], now: shown, ahead: ahead.slice(0, -1) };
  const passed = [now, ...steps].filter((step, place, every) => step && step.search !== every[place + 1]?.search && step.search !== shown.search);
  return { past: [...past, ...passed].slice(-LONGEST), now: shown, ahead: [] };
}
