// Map: what lies under the parcels, where the installation has a background.
import { $ } from "../web/dom.js";
import { dataset, map } from "./map.js";

const { background, backgroundCredit: credit, backgroundClosest: closest, backgroundLowest: lowest } = dataset;

/** The layer of the background; null where there is none. It is loaded without asking its server's leave to copy it. */
export const layer = background
  ? new ol.layer.Tile({
      source: new ol.source.XYZ({ url: background, maxZoom: Number(closest), minZoom: Number(lowest), attributions: credit }),
      minZoom: Number(lowest) - 1,
      zIndex: 0,
    })
  : null;

if (layer) {
  map.getLayers().insertAt(0, layer);
  const box = $("#map-layers [name=background]");
  const show = () => {
    layer.setVisible(box.checked);
    map.getTargetElement().classList.toggle("over-background", box.checked);
    document.dispatchEvent(new Event("map:background"));
  };
  box.addEventListener("change", show);
  show();
}
