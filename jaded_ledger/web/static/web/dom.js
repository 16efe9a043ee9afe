// What all scripts share: finding elements.

/** Return the first element that a selector finds. */
export const $ = (selector, within = document) => within.querySelector(selector);

/** Return every element that a selector finds. */
export const all = (selector, within = document) => [...within.querySelectorAll(selector)];
