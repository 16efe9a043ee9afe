// Undo and redo of a window's searches, without a page. node --test runs it.
import assert from "node:assert/strict";
import { test } from "node:test";

import { EMPTY, LONGEST, next, noted } from "../../jaded_ledger/find/static/find/search_history.js";

const step = (search) => ({ search, state: `q=${search}` });
const searches = (steps) => steps.map(({ search }) => search).join(" ");
const after = (...names) => names.reduce((held, name) => noted(held, step(name)), EMPTY);
const gone = (held, way) => noted({ ...held, going: way }, next(held, way));

test("the first search has nothing behind it", () => {
  const held = after("a");
  assert.deepEqual(held, { past: [], now: step("a"), ahead: [] });
  assert.equal(next(held, "back"), undefined);
});

test("back and ahead again", () => {
  let held = after("a", "b", "c");
  assert.equal(searches(held.past), "a b");
  held = gone(gone(held, "back"), "back");
  assert.deepEqual([held.now.search, searches(held.ahead), searches(held.past)], ["a", "c b", ""]);
  held = gone(held, "ahead");
  assert.deepEqual([held.now.search, searches(held.ahead), searches(held.past)], ["b", "c", "a"]);
});

test("another search after going back forgets what lay ahead", () => {
  const held = noted(gone(after("a", "b", "c"), "back"), step("d"));
  assert.deepEqual([searches(held.past), held.now.search, held.ahead.length], ["a b", "d", 0]);
});

test("the same search at another address is the same step", () => {
  const held = noted(after("a", "b"), { search: "b", state: "q=b&sort=price" });
  assert.deepEqual([searches(held.past), held.now.state], ["a", "q=b&sort=price"]);
});

test("going back to a search that was done again by hand is not going back", () => {
  const held = noted(after("a", "b"), step("a"));
  assert.equal(searches(held.past), "a b");
});

test("acts that came together are undone one by one, and repeated ones once", () => {
  const held = noted(after("a"), step("d"), ["b", "b", "c", "d"].map(step));
  assert.equal(searches(held.past), "a b c");
});

test("the longest history is kept, the oldest step goes", () => {
  const names = Array.from({ length: LONGEST + 2 }, (_, place) => `s${place}`);
  const held = after(...names);
  assert.equal(held.past.length, LONGEST);
  assert.equal(held.past[0].search, "s1");
});
