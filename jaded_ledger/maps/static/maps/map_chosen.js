// Map: the parcels that are chosen, in the table as on the map.
import { chooseParcels, selection } from "../find/rows.js";
import { $ } from "../web/dom.js";

let chosen = { all: false, ids: new Set() };

// What is done with the selection is sent as from the table's foot.
function showSelected(all, ids) {
  const form = $("#map-selection");
  const matches = Number($("#search").dataset.matches);
  const count = all ? matches - ids.length : ids.length;
  form.hidden = count === 0;
  form.elements.ids.value = ids.join(",");
  form.elements.all.value = all ? "1" : "";
  $("b", form).textContent = `${count.toLocaleString("en-US")} selected`;
}

/** Read anew what is chosen. */
export function noteChosen() {
  const { all, ids } = selection();
  chosen = { all, ids: new Set(ids) };
  $("#map-any-chosen").hidden = !all && !ids.length;
  showSelected(all, ids);
  const button = $("[data-chooses]");
  if (button) button.setAttribute("aria-pressed", String(isChosen(Number(button.dataset.chooses))));
}

/** Return whether a match is chosen. */
export const isChosen = (id) => chosen.all !== chosen.ids.has(id);

/** Choose a match, or no longer. */
export const toggleChosen = (id) => chooseParcels([id], !isChosen(id));
