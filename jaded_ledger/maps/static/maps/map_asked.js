// Map: the areas and rings that the search asks for, and the outline that is being drawn.
import { $ } from "../web/dom.js";
import { asked as searchShown } from "../find/faces.js";
import { dataset, map, say } from "./map.js";
import { ask } from "./map_requests.js";

const format = new ol.format.GeoJSON({ featureProjection: "EPSG:3857" });
const role = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();

/** Return the shape of a GeoJSON geometry in degrees. */
export const shapeOf = (geometry) => format.readGeometry(geometry);

/** Return a shape as GeoJSON, in degrees. */
export const geojsonOf = (shape) => format.writeGeometry(shape, { decimals: 7 });

/** Return how an outline is drawn, and what is written on it: what is included is dashed, what is excluded dotted and dimmed. */
export function outlineStyle(name, use) {
  const { Style, Fill, Stroke, Text, Circle } = ol.style;
  const ink = role("ink");
  if (use === "center") {
    const image = new Circle({ radius: 5, fill: new Fill({ color: role("ochre") }), stroke: new Stroke({ color: ink, width: 1.5 }) });
    return new Style({ image, zIndex: 22 });
  }
  const isOut = use === "out";
  const text = new Text({
    text: use ? `${name}, ${use}` : name,
    font: `600 12px ${role("sans")}`,
    fill: new Fill({ color: ink }),
    stroke: new Stroke({ color: role("sheet"), width: 4 }),
    overflow: true,
    placement: "point",
    textBaseline: "bottom",
  });
  return [
    new Style({
      stroke: new Stroke({ color: ink, width: 2, lineDash: isOut ? [2, 5] : [9, 6] }),
      fill: new Fill({ color: isOut ? `color-mix(in srgb, ${role("ink-3")} 22%, transparent)` : "transparent" }),
      zIndex: 20,
    }),
    // It is written on the northern edge, where it hides no parcel.
    new Style({ text, zIndex: 21, geometry: (feature) => northOf(feature.getGeometry()) }),
  ];
}

/** Return how a corner is drawn that can be dragged. */
export function handleStyle() {
  const { Style, Fill, Stroke, RegularShape } = ol.style;
  const image = new RegularShape({ points: 4, radius: 7, angle: Math.PI / 4, fill: new Fill({ color: role("sheet") }), stroke: new Stroke({ color: role("ink"), width: 2 }) });
  return new Style({ image, geometry: (feature) => (feature.getGeometry().getType() === "Point" ? feature.getGeometry() : null), zIndex: 23 });
}

function northOf(shape) {
  const [west, , east, north] = shape.getExtent();
  const flat = shape.getFlatCoordinates();
  const stride = shape.getStride();
  if (shape.getType() === "Circle") return new ol.geom.Point([(west + east) / 2, north]);
  for (let at = 1; at < flat.length; at += stride) if (flat[at] === north) return new ol.geom.Point([flat[at - 1], north]);
  return new ol.geom.Point([(west + east) / 2, north]);
}

const source = new ol.source.Vector();
map.addLayer(new ol.layer.Vector({ source, zIndex: 6, style: (feature) => outlineStyle(feature.get("name"), feature.get("use")) }));

let shown = null;
async function showAsked({ state }) {
  if (state === shown) return;
  shown = state;
  let found = { features: [] };
  try {
    // Most searches ask for no area, and that is known without asking.
    if (/in-area|within/.test(decodeURIComponent(state)) || /(^|&)s=/.test(state)) found = await ask(dataset.asked, state);
  } catch (error) {
    say(error.message);
  }
  if (shown !== state) return;
  source.clear();
  source.addFeatures(format.readFeatures({ type: "FeatureCollection", features: found.features }));
  const told = found.features.filter(({ properties }) => properties.use !== "center").map(({ properties: { name, use } }) => `${name}, ${use}`);
  $("#map-asked").textContent = told.length ? `Drawn: ${told.join("; ")}.` : "";
}

document.addEventListener("find:search", ({ target, detail }) => {
  if (target.id === "face-map") showAsked(detail);
});
if (!$("#face-map").hidden) showAsked(searchShown());
