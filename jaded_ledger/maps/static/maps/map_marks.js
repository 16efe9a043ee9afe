// Map: what sold lately, what is for sale and what will be auctioned, with prices; and all that one owner has.
import { $, all } from "../web/dom.js";
import { boxAround, dataset, fit, map, say, view } from "./map.js";
import { ask } from "./map_requests.js";

const CLOSE = 14;
const role = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
// Fill, line and word of each kind: what sold is filled, what is for sale framed, an auction ahead ochre.
const COLORS = { sold: ["jade", "jade-deep", "sheet"], offered: ["sheet", "jade-deep", "ink"], auction: ["ochre", "ink-2", "sheet"] };

const source = new ol.source.Vector();
map.addLayer(new ol.layer.Vector({ source, zIndex: 7, style: markStyle, declutter: true }));

function markStyle(feature) {
  const { Style, Fill, Stroke, Text } = ol.style;
  const [ground, edge, word] = COLORS[feature.get("kind")].map(role);
  const text = new Text({
    text: feature.get("text") || "·",
    font: `600 11px ${role("sans")}`,
    fill: new Fill({ color: word }),
    backgroundFill: new Fill({ color: ground }),
    backgroundStroke: new Stroke({ color: edge, width: 1.5 }),
    padding: [2, 4, 1, 4],
  });
  return new Style({ text, zIndex: 30 });
}

const wanted = () => all("#map-layers [name=mark]:checked").map(({ value }) => value);

let asked = 0;
async function showMarks() {
  const mine = ++asked;
  const kinds = wanted();
  if (!kinds.length || view.getZoom() < CLOSE) {
    source.clear();
    return;
  }
  try {
    const query = new URLSearchParams([["box", boxAround(0.1).join(",")], ["zoom", view.getZoom()], ...kinds.map((kind) => ["kind", kind])]);
    const { marks } = await ask(dataset.marks, query);
    if (mine !== asked) return;
    source.clear();
    source.addFeatures(marks.map(({ at, ...properties }) => new ol.Feature({ ...properties, geometry: new ol.geom.Point(ol.proj.fromLonLat(at)) })));
  } catch (error) {
    say(error.message);
  }
}

map.on("moveend", showMarks);
document.addEventListener("change", ({ target }) => {
  if (target.name !== "mark") return;
  $(`[data-legend="${target.value}"]`).hidden = !target.checked;
  showMarks();
  if (target.checked && view.getZoom() < CLOSE) say("Come closer to see what sold, what is for sale and what will be auctioned.");
});

document.addEventListener("click", async ({ target }) => {
  const parcel = target.closest("[data-shows-owner]")?.dataset.showsOwner;
  if (!parcel) return;
  const { ids, box } = await ask(dataset.ofOwner.replace(/0$/, parcel));
  document.dispatchEvent(new CustomEvent("map:owner", { detail: ids }));
  if (box) fit(box);
  say(`${ids.length.toLocaleString("en-US")} parcels of one owner are framed.`);
});
