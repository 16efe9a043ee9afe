// Map: the matches among the parcels, drawn from vector tiles of the records.
import { $, fieldsOf } from "../web/dom.js";
import { asked as searchShown } from "../find/faces.js";
import { loadLibrary } from "./map_library.js";
import { drawing, showCells, showScale } from "./map_style.js";
import { saveAsPicture } from "./map_picture.js";
import { cards } from "./map_card.js";
import { isChosen, noteChosen, toggleChosen } from "./map_chosen.js";

export const sheet = $("#map");
export const { dataset } = sheet;
const matched = new Set();
// The parcels of one owner, once they were asked for; what is written on parcels.
let [owned, labels] = [new Set(), {}];
let [drawn, waiting] = [null, null];
let search = null;
// Whether the map is yet to show all matches; a move meanwhile does not change that.
let isToFit = true;

await loadLibrary(dataset.library);

const isOn = (layer) => $(`#map-layers [value="${layer}"]`)?.checked ?? true;

// What is drawn ------------------------------------------------------------------------------------

function styleOf(feature) {
  const id = feature.getId();
  switch (feature.get("of")) {
    case "parcels": {
      const frame = owned.has(id) ? [drawn.owned] : [];
      const ground = id === shown() ? drawn.shown : matched.has(id) ? (isChosen(id) ? drawn.chosen : drawn.match) : drawn.parcel;
      return labels[id] ? [ground, ...frame, drawn.label(labels[id])] : [ground, ...frame];
    }
    case "points":
      return matched.has(id) ? drawn.pointMatch : drawn.point;
    default:
      return null;
  }
}

function surroundings(feature) {
  const kind = feature.get("kind") ?? feature.get("layer");
  if (!isOn(kind) || !drawn.layers[kind]) return null;
  const line = (kind === "road" && drawn.layers[feature.get("class")?.match(/arterial|collector/i)?.[0].toLowerCase()]) || drawn.layers[kind];
  const name = feature.get("name");
  if (name && (kind === "water" || kind === "park")) return [line, drawn.name(name)];
  return name && (kind === "road" || kind === "highway") && view.getZoom() >= 16 ? [line, drawn.street(name)] : line;
}

function tiles(style, layers, zIndex) {
  const format = new ol.format.MVT({ layers, layerName: "of" });
  const source = new ol.source.VectorTile({ format, maxZoom: Number(dataset.closest), url: "" });
  return new ol.layer.VectorTile({ source, style, zIndex, renderMode: "hybrid", declutter: true });
}

const around = tiles((feature) => surroundings(feature), ["features", "areas"], 1);
const parcels = tiles((feature) => styleOf(feature), ["parcels", "points"], 2);
const grid = new ol.layer.Vector({ source: new ol.source.Vector(), zIndex: 3 });
export const map = new ol.Map({
  target: sheet,
  layers: [around, parcels, grid],
  controls: ol.control.defaults.defaults({ attribution: false, rotate: false }),
  interactions: ol.interaction.defaults.defaults({ altShiftDragRotate: false, pinchRotate: false }),
  view: new ol.View({ center: [0, 0], zoom: 2, maxZoom: 20, constrainRotation: true, enableRotation: false }),
});
export const view = map.getView();

function redraw() {
  drawn = drawing(sheet.classList.contains("over-background"));
  for (const layer of [around, parcels]) layer.changed();
}
document.addEventListener("map:background", redraw);
window.matchMedia("(prefers-color-scheme: dark)").addEventListener("change", redraw);

function tilesOf(version) {
  const url = dataset.tiles.replace("/0/1/2/3", `/${version}/{z}/{x}/{y}`);
  for (const layer of [around, parcels]) if (layer.getSource().getUrls()?.[0] !== url) layer.getSource().setUrl(url);
}

// The matches in view --------------------------------------------------------------------------------

export const say = (text) => { $("#map-says").textContent = text; };

/** Return the part of the map that is seen, and a share of it more on every side, in web mercator: a short move needs no answer. */
export function boxAround(share) {
  const [west, south, east, north] = view.calculateExtent(map.getSize());
  const [wide, high] = [(east - west) * share, (north - south) * share];
  const world = 20037508;
  return [Math.max(-world, west - wide), Math.max(-world, south - high), Math.min(world, east + wide), Math.min(world, north + high)];
}

async function ask(address, more = {}) {
  const query = new URLSearchParams({ box: boxAround(0.5).join(","), seen: boxAround(0).join(","), zoom: view.getZoom(), ...more });
  const answer = await fetch(`${address}?${search.state}&${query}`, { signal: waiting.signal, headers: { "HX-Request": "true" } });
  if (!answer.ok) throw new Error(await answer.text());
  return answer.json();
}

// How many are counted in the cells whose middle is seen.
function seenOf({ cells, cell }) {
  const [west, south, east, north] = boxAround(0);
  const isSeen = (x, y) => x > west && x < east && y > south && y < north;
  return cells.reduce((sum, [x, y, count]) => (isSeen((x + 0.5) * cell, (y + 0.5) * cell) ? sum + count : sum), 0);
}

function show(found) {
  grid.getSource().clear();
  matched.clear();
  if (found.cells) showCells(grid, drawn, found);
  for (const id of found.ids ?? []) matched.add(id);
  parcels.changed();
  const near = found.ids ? found.here : seenOf(found);
  const far = found.ids ? "" : ", counted on a grid; come closer to see parcels";
  const [here, every] = [near, search.matches].map((count) => count.toLocaleString("en-US"));
  say(search.matches ? `${here} of ${every} matches in this part of the map${far}` : "No parcel matches.");
}

// The answer under way about what is in view.
let looking = Promise.resolve();
function look() {
  looking = lookNow();
}

async function lookNow() {
  if (!search || !map.getSize()?.every(Boolean)) return;
  waiting?.abort();
  waiting = new AbortController();
  try {
    const found = await ask(dataset.inView, isToFit ? { extent: 1 } : {});
    const before = boxAround(0).join();
    if (isToFit && found.extent) fit(found.extent);
    isToFit = false;
    // A view that has moved asks for what is there now.
    if (boxAround(0).join() !== before) return;
    show(found);
    labels = {};
    const label = $("#map-label").value;
    if (label) {
      // Where parcels are not drawn yet nothing can be written on them.
      if (found.ids) ({ labels } = await ask(dataset.labels, { label }));
      if (!Object.keys(labels).length) say(`${$("#map-says").textContent} Zoom in to read labels.`);
    }
    parcels.changed();
  } catch (error) {
    if (error.name !== "AbortError") say(error.message);
  }
}

/** Show a part of the map, given by its sides in degrees. */
export function fit(degrees) {
  const box = ol.proj.transformExtent(degrees, "EPSG:4326", "EPSG:3857");
  view.fit(box, { size: map.getSize(), padding: [30, 30, 50, 30], maxZoom: 18 });
}

// It opens where the matches are: the answer that tells them again may take a while.
function open() {
  const box = dataset.extent ? dataset.extent.split(",").map(Number) : null;
  if (box && view.getZoom() === 2 && map.getSize()?.every(Boolean)) fit(box);
}

// Until its style sheet has come the map has no height, and no part of the world is seen.
map.on("change:size", () => {
  open();
  if (isToFit) look();
});
map.on("moveend", () => {
  showScale(map);
  look();
});
document.addEventListener("find:search", ({ target, detail }) => {
  if (target.id === "face-map") hear(detail);
});
document.addEventListener("map:owner", ({ detail }) => {
  owned = new Set(detail);
  parcels.changed();
});
// Beside the table: less room, rows that are looked at, and rows that are chosen.
document.addEventListener("find:room", () => map.updateSize());
document.addEventListener("find:row", ({ detail }) => openCard(detail));
document.addEventListener("find:chosen", () => {
  noteChosen();
  parcels.changed();
});

function hear(detail) {
  search = detail;
  noteChosen();
  tilesOf(detail.version);
  map.updateSize();
  look();
}

function showAll() {
  isToFit = true;
  look();
}

// Its keys and its card ---------------------------------------------------------------------------------

function place(feature) {
  const [west, south, east, north] = feature.getExtent();
  return [(west + east) / 2, (south + north) / 2];
}

const { openCard, closeCard, shown } = cards(map, parcels, () => search, (id) => matched.has(id));

map.on("singleclick", (event) => {
  // While something is drawn, a click is a corner of it.
  if ("drawing" in dataset) return;
  const [hit] = map.getFeaturesAtPixel(event.pixel, { layerFilter: (layer) => layer === parcels, hitTolerance: 2 });
  if (hit) openCard(hit.getId(), event.coordinate);
  else closeCard();
});

// Row by row, as one reads, and once where a parcel is in two tiles.
export function matchesInView() {
  const found = new Map();
  for (const feature of parcels.getFeaturesInExtent(view.calculateExtent(map.getSize()))) {
    if (matched.has(feature.getId())) found.set(feature.getId(), place(feature));
  }
  const row = view.getResolution() * 40;
  return [...found].sort(([, a], [, b]) => Math.round(b[1] / row) - Math.round(a[1] / row) || a[0] - b[0]);
}

const rendered = () =>
  new Promise((done) => {
    map.once("rendercomplete", done);
    map.render();
  });

// A key that comes before the map is there waits for it.
async function step(by) {
  await rendered();
  await looking;
  const every = matchesInView();
  if (!every.length) return;
  const at = every.findIndex(([id]) => id === shown());
  const [id, where] = every[(at < 0 && by < 0 ? 0 : at + by + every.length) % every.length];
  openCard(id, where);
}

sheet.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || "drawing" in dataset) return;
  if (event.key === "Escape") closeCard();
  else if (event.key === "Enter") $("#map-card:not([hidden]) [data-to-record]")?.click();
  else if (!("singleKeys" in document.body.dataset)) return;
  else if (event.key === "v" && matched.has(shown())) toggleChosen(shown());
  else if (event.key === ".") step(1);
  else if (event.key === ",") step(-1);
  else if (event.key === "0") showAll();
  else return;
  event.preventDefault();
});
document.addEventListener("click", (event) => {
  const { target } = event;
  if (target.closest("[data-map-all]")) showAll();
  else if (target.closest("[data-chooses]")) toggleChosen(shown());
  else if (target.closest("[data-map-png]")) saveAsPicture(map, say);
  else if (target.closest("[popovertarget=map-areas]")) htmx.trigger($("#map-area-rows"), "ask");
  else if (target.closest("[popovertarget=map-most]")) htmx.trigger($("#map-most select"), "ask");
  const zoom = target.closest("[data-zooms-to]");
  if (zoom) fit(zoom.dataset.zoomsTo.split(",").map(Number));
});
// What is done with all matches is done with those of the search as it stands.
document.addEventListener("formdata", ({ target, formData }) => {
  if (!target.matches("[data-map-takes]")) return;
  for (const [name, value] of fieldsOf("#state")) formData.append(name, value);
});
document.addEventListener("change", (event) => {
  if (event.target.closest("#map-layers")) around.changed();
  else if (event.target.id === "map-label") look();
});

redraw();
open();
// A face that was fetched is told of its search before this runs.
if (!$("#face-map").hidden) hear(searchShown());
