// Map: the card of a parcel.
import { showRow } from "../find/rows.js";
import { $ } from "../web/dom.js";
import { noteChosen } from "./map_chosen.js";

/** Return what opens and closes the card of a parcel, and tells whose is open. */
export function cards(map, parcels, searchShown, isMatch) {
  const card = $("#map-card");
  const address = map.getTargetElement().dataset.card;
  let shown = null;

  // Without a place it is that of the parcel itself, and the map moves to it.
  async function openCard(id, at = null) {
    shown = id;
    parcels.changed();
    // It fails where a newer one takes its place.
    await htmx.ajax("GET", address.replace(/0$/, id), { source: card, target: card, swap: "innerHTML" }).catch(() => {});
    if (shown !== id) return;
    const link = $("[data-to-record]", card);
    if (link) link.search = searchShown().state;
    $("[data-chooses]", card).hidden = Boolean(at) && !isMatch(id);
    noteChosen();
    showRow(id);
    if (!at) await moveTo(placeOf());
    const [x, y] = map.getPixelFromCoordinate(at ?? placeOf()) ?? [0, 0];
    const [width, height] = map.getSize();
    card.hidden = false;
    card.style.left = `${Math.max(8, Math.min(x + 14, width - card.offsetWidth - 8))}px`;
    card.style.top = `${Math.max(8, Math.min(y + 14, height - card.offsetHeight - 40))}px`;
  }

  function placeOf() {
    const degrees = $("[data-at]", card)?.dataset.at.split(",").map(Number);
    return degrees?.length === 2 ? ol.proj.fromLonLat(degrees) : map.getView().getCenter();
  }

  async function moveTo(place) {
    const view = map.getView();
    if (view.getZoom() < 16) view.setZoom(17);
    view.setCenter(place);
    await new Promise((done) => map.once("rendercomplete", done));
  }

  function closeCard() {
    shown = null;
    card.hidden = true;
    parcels.changed();
  }

  map.on("movestart", () => { card.hidden = true; });
  document.addEventListener("click", ({ target }) => {
    if (target.closest("[data-closes-card]")) closeCard();
  });
  return { openCard, closeCard, shown: () => shown };
}
