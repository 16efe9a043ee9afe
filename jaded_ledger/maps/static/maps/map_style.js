// Map: how it is drawn. Every color comes from the theme's roles.
import { $ } from "../web/dom.js";

const role = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();

// Lines from corner to corner of a tile that repeats.
function hatched(line, ground) {
  const ratio = window.devicePixelRatio || 1;
  const side = Math.round(6 * ratio);
  const tile = document.createElement("canvas");
  tile.width = tile.height = side;
  const pen = tile.getContext("2d");
  pen.fillStyle = ground;
  pen.fillRect(0, 0, side, side);
  pen.strokeStyle = line;
  pen.lineWidth = 1.2 * ratio;
  pen.beginPath();
  for (const [x, y] of [[0, side], [-side / 2, side / 2], [side / 2, side * 1.5]]) {
    pen.moveTo(x, y);
    pen.lineTo(x + side, y - side);
  }
  pen.stroke();
  return pen.createPattern(tile, "repeat");
}

/** Return how each thing is drawn, in the colors of now: a browser may turn to dark while the page is open. */
export function drawing(isOverBackground) {
  const { Style, Fill, Stroke, Circle, Text } = ol.style;
  const line = (color, width, zIndex, lineDash) => new Style({ stroke: new Stroke({ color: role(color), width, lineDash }), zIndex });
  const ground = (fill, edge, zIndex) =>
    new Style({ fill: new Fill({ color: role(fill) }), stroke: edge && new Stroke({ color: role(edge), width: 0.8 }), zIndex });
  const font = `11px ${role("sans")}`;
  const words = (text, color, weight = "") =>
    new Text({ text, font: `${weight} ${font}`, fill: new Fill({ color: role(color) }), stroke: new Stroke({ color: role("sheet"), width: 3 }), overflow: true });
  // Over a picture of the ground parcels are outlines, and matches let it through.
  const hatch = new Fill({ color: hatched(role("jade"), isOverBackground ? `color-mix(in srgb, ${role("jade-pale")} 65%, transparent)` : role("jade-pale")) });
  const match = new Style({ fill: hatch, stroke: new Stroke({ color: role("jade-deep"), width: 1.2 }), zIndex: 5 });
  // A ground that hardly shows can still be clicked on.
  const seeThrough = new Style({
    fill: new Fill({ color: `color-mix(in srgb, ${role("sheet")} 2%, transparent)` }),
    stroke: new Stroke({ color: role("sheet"), width: 1 }),
    zIndex: 3,
  });
  const shown = new Style({ fill: hatch, stroke: new Stroke({ color: role("ink"), width: 3 }), zIndex: 7 });
  const chosen = new Style({ fill: new Fill({ color: role("jade") }), stroke: new Stroke({ color: role("jade-deep"), width: 1.5 }), zIndex: 6 });
  const point = (fill, edge) =>
    new Style({ image: new Circle({ radius: 4, fill: new Fill({ color: role(fill) }), stroke: new Stroke({ color: role(edge), width: 1.5 }) }), zIndex: 6 });
  return {
    match,
    shown,
    chosen,
    owned: new Style({ stroke: new Stroke({ color: role("ochre"), width: 3 }), zIndex: 8 }),
    parcel: isOverBackground ? seeThrough : ground("sheet", "rule", 3),
    point: point("sheet", "edge"),
    pointMatch: point("jade", "jade-deep"),
    layers: {
      water: ground("water", "water-edge", 1),
      park: ground("park", null, 1),
      "flood-zone": line("water-edge", 1.4, 8, [2, 4]),
      highway: line("ink-3", 4, 9),
      road: line("rule", 1.5, 2),
      collector: line("rule", 2.4, 2),
      arterial: line("edge", 3, 2),
      rail: line("ink-2", 1.6, 9, [8, 3]),
      barrier: line("ink-2", 2, 9),
      neighborhood: line("ochre", 1, 10, [6, 5]),
      subdivision: line("jade", 1, 10, [2, 3]),
      school_district: line("oxblood", 1, 10, [1, 4]),
    },
    /** What is written on a parcel, a few words a line. */
    label: (text) => new Style({ text: words(text.replace(/(.{8,}?) /g, "$1\n"), "ink"), zIndex: 12 }),
    /** What is written on a lake or an area. */
    name: (text) => new Style({ text: words(text, "ink-2", "italic"), zIndex: 11 }),
    /** A street's name, along it. */
    street: (text) => {
      const written = words(text, "ink-3");
      written.setPlacement("line");
      return new Style({ text: written, zIndex: 11 });
    },
    /** A cell of the grid that counts matches. */
    cell: (count, most) => {
      const share = 0.15 + 0.7 * Math.sqrt(count / most);
      return new Style({
        fill: new Fill({ color: `color-mix(in srgb, ${role("jade")} ${Math.round(100 * share)}%, transparent)` }),
        text: words(count.toLocaleString("en-US"), "ink", "600"),
      });
    },
  };
}

/** Write the legend's scale under a map. */
export function showScale(map) {
  const view = map.getView();
  const resolution = ol.proj.getPointResolution(view.getProjection(), view.getResolution(), view.getCenter(), "m");
  const feet = (resolution * 100) / 0.3048;
  // The nearest round length below a hundred pixels.
  const round = [5280 * 500, 5280 * 100, 5280 * 20, 5280 * 5, 5280 * 2, 5280, 2640, 1320, 1000, 500, 200, 100, 50, 20].find((length) => length <= feet) ?? 10;
  const words = round >= 1320 ? `${round / 5280} mi` : `${round} ft`;
  const bar = document.createElement("span");
  bar.className = "scale";
  bar.textContent = words;
  bar.style.width = `${(100 * round) / feet}px`;
  $("#map-scale").replaceChildren(bar);
}

/** Draw the grid that counts matches. */
export function showCells(grid, drawn, { cells, cell }) {
  const most = Math.max(...cells.map(([, , count]) => count));
  const features = cells.map(([x, y, count]) => {
    const [west, south, east, north] = [x, y, x + 1, y + 1].map((line) => line * cell);
    const feature = new ol.Feature(new ol.geom.Polygon([[[west, south], [east, south], [east, north], [west, north], [west, south]]]));
    feature.setStyle(drawn.cell(count, most));
    return feature;
  });
  grid.getSource().addFeatures(features);
}
