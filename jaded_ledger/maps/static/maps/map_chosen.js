// Map: the parcels that are chosen, in the table as on the map.
import { chooseParcels, selection } from "../find/rows.js";
import { $ } from "../web/dom.js";

let chosen = { all: false, ids: new Set() };

/** Read anew what is chosen. */
export function noteChosen() {
  const { all, ids } = selection();
  chosen = { all, ids: new Set(ids) };
  $("#map-any-chosen").hidden = !all && !ids.length;
  const button = $("[data-chooses]");
  if (button) button.setAttribute("aria-pressed", String(isChosen(Number(button.dataset.chooses))));
}

/** Return whether a match is chosen. */
export const isChosen = (id) => chosen.all !== chosen.ids.has(id);

/** Choose a match, or no longer. */
export const toggleChosen = (id) => chooseParcels([id], !isChosen(id));
