// What all scripts share: finding elements.

/**
 * Return the first element that a selector finds; of one that is no field, what only fields have is undefined.
 *
 * @param {string} selector
 * @param {any} within
 * @returns {HTMLInputElement | null}
 */
export const $ = (selector, within = document) => within.querySelector(selector);

/**
 * Return every element that a selector finds.
 *
 * @param {string} selector
 * @param {any} within
 * @returns {HTMLInputElement[]}
 */
export const all = (selector, within = document) => [...within.querySelectorAll(selector)];

/**
 * Return what the fields of a form hold.
 *
 * @param {string} selector of the form
 */
export const fieldsOf = (selector) => new FormData(/** @type {any} */ ($(selector)));
