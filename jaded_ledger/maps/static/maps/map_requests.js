// Map: what it asks the server beside its tiles.
import { fieldsOf } from "../web/dom.js";

async function answered(response) {
  const found = await response.json();
  if (!response.ok) throw new Error(found.error);
  return found;
}

/** Send values, and what the search is, to an address; return its answer. Throws an error with what is wrong. */
export async function send(address, values) {
  const headers = JSON.parse(document.body.getAttribute("hx-headers"));
  const body = new URLSearchParams([...fieldsOf("#state"), ...Object.entries(values)]);
  return answered(await fetch(address, { method: "POST", headers, body }));
}

/**
 * Ask an address with a query; return its answer. Throws an error with what is wrong.
 *
 * @param {string} address
 * @param {string | URLSearchParams} query
 */
export async function ask(address, query = "") {
  return answered(await fetch(`${address}?${query}`, { headers: { "HX-Request": "true" } }));
}
