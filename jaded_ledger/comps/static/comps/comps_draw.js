// Comps: an area drawn on the small map, by pointer or keyboard, that the pool leaves out or stays within.
import { $ } from "../web/dom.js";

const SVG = "http://www.w3.org/2000/svg";
const EARTH = 6378137;
const STEP = 8;
let corners = [];
let cross = null;

const map = () => $(".comps-map");

/** Return a place on the picture in degrees: it is drawn in web mercator (EPSG:3857). */
function degrees([x, y]) {
  const [west, north, scale] = ["west", "north", "scale"].map((name) => Number(map().dataset[name]));
  const [east, up] = [west + x / scale, north - y / scale];
  return [(east / EARTH) * (180 / Math.PI), (2 * Math.atan(Math.exp(up / EARTH)) - Math.PI / 2) * (180 / Math.PI)];
}

function at(event) {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(map().getScreenCTM().inverse());
  return [point.x, point.y];
}

function shape(name, css) {
  const found = $(`.${css}`, map()) ?? map().appendChild(document.createElementNS(SVG, name));
  found.setAttribute("class", css);
  return found;
}

function redraw() {
  shape("polygon", "draft").setAttribute("points", corners.map((corner) => corner.join(",")).join(" "));
  if (cross) shape("path", "cross").setAttribute("d", `M${cross[0] - 8} ${cross[1]} h16 M${cross[0]} ${cross[1] - 8} v16`);
  const enough = corners.length > 2;
  for (const button of document.querySelectorAll(".draw-panel [data-as]")) button.disabled = !enough;
  $("#draw-said").textContent = enough ? `${corners.length} corners` : "Click each corner; by keyboard arrows move, Space sets, Enter ends.";
}

function stop() {
  corners = [];
  cross = null;
  map()?.classList.remove("drawing");
  for (const css of ["draft", "cross"]) $(`.${css}`, map() ?? document)?.remove();
  $(".draw-panel")?.remove();
}

function start() {
  stop();
  const panel = document.createElement("form");
  panel.className = "draw-panel";
  panel.innerHTML = `<span id="draw-said" role="status"></span><input class="form-control" name="name" maxlength="80" placeholder="its name" aria-label="Name of the area" autocomplete="off">
    <button type="button" class="btn" data-as="outside" disabled>Exclude this area</button><button type="button" class="btn" data-as="inside" disabled>Only this area</button>
    <button type="button" class="btn btn-quiet" data-as="">Cancel</button>`;
  $("#where").append(panel);
  panel.addEventListener("submit", (event) => event.preventDefault());
  panel.addEventListener("click", (event) => {
    const as = event.target.closest("[data-as]")?.dataset.as;
    if (as === "") stop();
    else if (as) keep(as);
  });
  map().classList.add("drawing");
  map().setAttribute("tabindex", "0");
  map().focus();
  const box = map().viewBox.baseVal;
  cross = [box.width / 2, box.height / 2];
  redraw();
}

function keep(as) {
  const ring = [...corners, corners[0]].map(degrees);
  const form = $("#acts");
  const values = { do: "draw", as, name: $(".draw-panel [name=name]").value, geometry: JSON.stringify({ type: "Polygon", coordinates: [ring] }) };
  for (const field of form.elements) if (field.type === "hidden" && field.name && !(field.name in values)) values[field.name] = field.value;
  stop();
  htmx.ajax("POST", form.action, { target: "#comps", swap: "outerHTML", values });
}

document.addEventListener("click", (event) => {
  if (event.target.closest("#draw")) return start();
  if (event.target.closest(".comps-map.drawing")) {
    corners.push(at(event));
    redraw();
  }
});

document.addEventListener("keydown", (event) => {
  if (!event.target.closest?.(".comps-map.drawing")) return;
  const [x, y] = cross;
  const moved = { ArrowLeft: [x - STEP, y], ArrowRight: [x + STEP, y], ArrowUp: [x, y - STEP], ArrowDown: [x, y + STEP] }[event.key];
  if (moved) cross = moved;
  else if (event.key === " ") corners.push(cross);
  else if (event.key === "Enter" && corners.length > 2) $(".draw-panel [name=name]").focus();
  else if (event.key === "Escape") stop();
  else return;
  event.preventDefault();
  if (map().classList.contains("drawing")) redraw();
});
