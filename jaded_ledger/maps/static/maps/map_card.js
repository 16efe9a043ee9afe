// Map: the card of a parcel.
import { $ } from "../web/dom.js";

/** Return what opens and closes the card of a parcel, and tells whose is open. */
export function cards(map, parcels, searchShown) {
  const card = $("#map-card");
  const address = map.getTargetElement().dataset.card;
  let shown = null;

  async function openCard(id, at) {
    shown = id;
    parcels.changed();
    // It fails where a newer one takes its place.
    await htmx.ajax("GET", address.replace(/0$/, id), { source: card, target: card, swap: "innerHTML" }).catch(() => {});
    if (shown !== id) return;
    const link = $("[data-to-record]", card);
    if (link) link.search = searchShown().state;
    const [x, y] = map.getPixelFromCoordinate(at);
    const [width, height] = map.getSize();
    card.hidden = false;
    card.style.left = `${Math.max(8, Math.min(x + 14, width - card.offsetWidth - 8))}px`;
    card.style.top = `${Math.max(8, Math.min(y + 14, height - card.offsetHeight - 40))}px`;
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
