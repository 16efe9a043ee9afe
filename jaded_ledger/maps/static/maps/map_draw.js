// Map: drawing an area, taking one over from the records, and giving one another outline.
import { $, all } from "../web/dom.js";
import { act } from "../find/pending_acts.js";
import { chooseParcels } from "../find/rows.js";
import { dataset, fit, map, matchesInView, say, sheet, view } from "./map.js";
import { geojsonOf, handleStyle, outlineStyle, shapeOf } from "./map_asked.js";
import { ask, send } from "./map_requests.js";

const panel = $("#map-draft");
const field = (name) => panel.elements[name];
const source = new ol.source.Vector();
map.addLayer(new ol.layer.Vector({ source, zIndex: 8, style: () => outlineStyle("", "") }));
const modify = new ol.interaction.Modify({ source, style: handleStyle });
map.addInteraction(modify);

const HOW = {
  polygon: "Click each corner; double-click the last. By keyboard: move the map, Space sets a corner in its middle, Enter ends.",
  circle: "Click the center, then how far it reaches.",
  rectangle: "Click a corner, then the one across.",
  select: "Click a corner, then the one across: the matches between them are selected.",
  record: "Click on the map, or press Enter for its middle, to see which areas are on record there.",
};
let draw = null;
let kind = "";
// The area whose outline is changed, and its name.
let edited = null;
// The latest question about the outline: an older answer is of no use.
let measuring = 0;

const doubleClick = map.getInteractions().getArray().find((one) => one instanceof ol.interaction.DoubleClickZoom);
const degrees = (at) => ol.proj.toLonLat(at);

function radiusOf(circle) {
  const center = circle.getCenter();
  return ol.sphere.getDistance(degrees(center), degrees([center[0] + circle.getRadius(), center[1]]));
}

const number = (value) => value.toLocaleString("en-US", { maximumFractionDigits: value < 10 ? 2 : 1 });

function told(shape) {
  if (shape.getType() === "Circle") {
    const meters = radiusOf(shape);
    return `Radius ${number(meters / 1609.344)} mi (${number(meters / 1000)} km)`;
  }
  return `${number(ol.sphere.getArea(shape) / 4046.8564224)} acres`;
}

function stop() {
  if (draw) map.removeInteraction(draw);
  draw = null;
  kind = "";
  source.clear();
  panel.hidden = true;
  edited = null;
  $("#map-found").replaceChildren();
  sheet.classList.remove("crosshair");
  // The double click that ends an outline is no wish to come closer.
  setTimeout(() => {
    if (!draw) doubleClick.setActive(true);
  }, 300);
  delete dataset.drawing;
}

function begin(how) {
  stop();
  kind = how;
  dataset.drawing = how;
  doubleClick.setActive(false);
  say(HOW[how]);
  sheet.focus();
  sheet.classList.add("crosshair");
  if (how === "record") return;
  const options = how === "polygon" ? { type: "Polygon" } : { type: "Circle" };
  if (how === "rectangle" || how === "select") options.geometryFunction = ol.interaction.Draw.createBox();
  draw = new ol.interaction.Draw({ ...options, style: [...outlineStyle("", ""), handleStyle()] });
  draw.on("drawstart", ({ feature }) => feature.getGeometry().on("change", ({ target }) => say(told(target))));
  draw.on("drawend", ({ feature }) => {
    map.removeInteraction(draw);
    draw = null;
    sheet.classList.remove("crosshair");
    if (how === "select") selectWithin(feature.getGeometry());
    else propose(feature.getGeometry());
  });
  map.addInteraction(draw);
}

// A match is selected where its middle lies in the box.
function selectWithin(box) {
  stop();
  const inside = matchesInView().filter(([, middle]) => box.intersectsCoordinate(middle));
  if (inside.length) chooseParcels(inside.map(([id]) => id), true);
  const count = inside.length.toLocaleString("en-US");
  say(inside.length ? `${count} match${inside.length === 1 ? "" : "es"} selected.` : "No match lies in that box. Where matches are counted on a grid, zoom in first.");
  sheet.focus();
}

function outline() {
  const shape = source.getFeatures()[0].getGeometry();
  if (shape.getType() !== "Circle") return { geometry: geojsonOf(shape) };
  const [longitude, latitude] = degrees(shape.getCenter());
  return { longitude, latitude, radius: radiusOf(shape) };
}

// Put an outline on the map to be looked at, changed, named and used.
async function propose(shape, name = "", of = null) {
  source.clear();
  source.addFeature(new ol.Feature(shape));
  edited = of;
  dataset.drawing = "outline";
  panel.hidden = false;
  for (const element of all("[data-of-new]", panel)) element.hidden = Boolean(of);
  for (const element of all("[data-of-kept]", panel)) element.hidden = !of;
  $("[data-makes-ring]", panel).hidden = Boolean(of) || shape.getType() !== "Circle";
  field("name").value = name;
  $("#draft-says").textContent = "…";
  field("name").focus();
  await measure();
  if (document.activeElement === field("name")) field("name").select();
}

async function measure() {
  const asked = ++measuring;
  const says = $("#draft-says");
  try {
    const found = await send(dataset.drawn, outline());
    if (asked !== measuring || panel.hidden) return;
    const shape = source.getFeatures()[0].getGeometry();
    if (found.note) source.getFeatures()[0].setGeometry(shapeOf(found.geometry));
    field("name").value ||= edited?.name ?? found.name;
    const counts = `${found.matches.toLocaleString("en-US")} of the matches and ${found.parcels.toLocaleString("en-US")} parcels lie in it`;
    const far = shape.getType() === "Circle" ? `${told(shape)}; ` : "";
    says.textContent = `${far}${found.size}. ${counts}. ${found.note}`;
    say(`${found.size}. ${counts}.`);
  } catch (error) {
    if (asked === measuring) says.textContent = error.message;
  }
}

modify.on("modifyend", measure);

async function keep(use) {
  try {
    const kept = await send(dataset.keep, { ...outline(), name: field("name").value, ...(edited ? { area: edited.id } : {}) });
    stop();
    say(`“${kept.name}” is kept. ${kept.note}`);
    if (use === "include" || use === "exclude") act(`${use}:in-area:${kept.name}`);
    sheet.focus();
  } catch (error) {
    $("#draft-says").textContent = error.message;
  }
}

function makeRing() {
  const { longitude, latitude, radius } = outline();
  stop();
  act(`add:within: ${Number((radius / 1609.344).toFixed(3))} mi of point "${latitude.toFixed(6)}, ${longitude.toFixed(6)}"`);
}

async function lookUp(at) {
  const [longitude, latitude] = degrees(at);
  const { areas } = await ask(dataset.atPoint, new URLSearchParams({ longitude, latitude }));
  if (kind !== "record") return;
  say(areas.length ? "Choose one of the areas on record here." : "No area is on record here; click elsewhere.");
  const buttons = areas.map(({ what, name, geometry }) => {
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = name && name.toLowerCase() !== what ? `${name} (${what})` : name;
    button.addEventListener("click", () => {
      $("#map-found").replaceChildren();
      sheet.classList.remove("crosshair");
      propose(shapeOf(geometry), name || what);
    });
    return button;
  });
  $("#map-found").replaceChildren(...buttons);
  buttons[0]?.focus();
}

async function edit(id) {
  const found = await ask(dataset.outline.replace(/0$/, id));
  stop();
  fit(found.box);
  doubleClick.setActive(false);
  const shape = found.radius ? circleOf(found) : shapeOf(found.geometry);
  propose(shape, found.name, found);
}

function circleOf({ center, radius }) {
  const at = ol.proj.fromLonLat(center);
  const circle = new ol.geom.Circle(at, radius);
  circle.setRadius((radius * radius) / radiusOf(circle));
  return circle;
}

map.on("singleclick", ({ coordinate }) => {
  if (kind === "record" && panel.hidden) lookUp(coordinate);
});
panel.addEventListener("submit", (event) => {
  event.preventDefault();
  keep(event.submitter?.value);
});
sheet.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const middle = view.getCenter();
  if (event.key === "d" && !("drawing" in dataset) && "singleKeys" in document.body.dataset) begin("polygon");
  else if (!("drawing" in dataset)) return;
  else if (event.key === "Escape") drop();
  else if (kind === "record" && event.key === "Enter") lookUp(middle);
  else if (draw && event.key === " " && kind === "polygon") draw.appendCoordinates([middle]);
  else if (draw && event.key === "Backspace") draw.removeLastPoint();
  else if (draw && event.key === "Enter") draw.finishDrawing();
  else return;
  event.preventDefault();
});
panel.addEventListener("keydown", ({ key }) => {
  if (key === "Escape") drop();
});

function drop() {
  stop();
  say("Nothing was kept.");
  sheet.focus();
}

document.addEventListener("click", async ({ target }) => {
  const { draws, showsArea, editsArea, uses, area } = target.closest("[data-draws], [data-shows-area], [data-edits-area], [data-uses]")?.dataset ?? {};
  if (draws || showsArea || editsArea) $("#map-areas").hidePopover();
  if (draws) begin(draws);
  else if (editsArea) edit(editsArea);
  else if (showsArea) fit(showsArea.split(",").map(Number));
  else if (uses) act(`${uses}:in-area:${area}`);
  else if (target.closest("[data-drops-draft]")) drop();
  else if (target.closest("[data-makes-ring]")) makeRing();
});
