// Days as a criterion has them.
function dayAfter(day) {
  const after = new Date(`${day}T00:00:00Z`);
  after.setUTCDate(after.getUTCDate() + 1);
  return after.toISOString().slice(0, 10);
}

/** Return the words for the days from a first to a last one; blank leaves an end open. */
export function inWords(first, last) {
  if (first && last) return `between ${first} and ${last}`;
  if (first) return `since ${first}`;
  return last ? `before ${dayAfter(last)}` : "";
}
