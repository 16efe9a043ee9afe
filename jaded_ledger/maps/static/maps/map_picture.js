// Map: what is on the screen as a picture, with its title, legend and scale.
import { $, all } from "../web/dom.js";

const FOOT = 34;

function write(pen, text, x, y, weight = "") {
  pen.font = `${weight} 13px ${getComputedStyle(document.body).fontFamily}`;
  pen.fillText(text, x, y);
}

/** Save the map as it is shown, as a PNG file; without its background where that one's server allows no copies (CORS). */
export function saveAsPicture(map, say) {
  map.once("rendercomplete", () => {
    const [width, height] = map.getSize();
    const ratio = window.devicePixelRatio || 1;
    const picture = document.createElement("canvas");
    picture.width = width * ratio;
    picture.height = (height + FOOT) * ratio;
    const pen = picture.getContext("2d");
    const role = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`);
    pen.scale(ratio, ratio);
    pen.fillStyle = role("paper");
    pen.fillRect(0, 0, width, height + FOOT);
    for (const canvas of /** @type {any[]} */ (all(".ol-layer canvas", map.getViewport()))) {
      if (!canvas.width) continue;
      pen.globalAlpha = Number(canvas.parentNode.style.opacity || 1);
      const turned = canvas.style.transform.match(/^matrix\(([^(]*)\)$/);
      const [a, b, c, d, e, f] = turned ? turned[1].split(",").map(Number) : [1 / ratio, 0, 0, 1 / ratio, 0, 0];
      pen.setTransform(a * ratio, b * ratio, c * ratio, d * ratio, e * ratio, f * ratio);
      pen.drawImage(canvas, 0, 0);
    }
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    pen.globalAlpha = 1;
    pen.fillStyle = role("sheet");
    pen.fillRect(0, height, width, FOOT);
    pen.fillStyle = role("ink");
    write(pen, $("#map-says").textContent, 12, height + 22);
    const scale = $("#map-scale .scale");
    if (scale) {
      const long = scale.offsetWidth;
      const left = width - long - 60;
      pen.fillRect(left, height + 24, long, 2);
      write(pen, scale.textContent, left, height + 19);
    }
    try {
      save(picture);
    } catch (error) {
      const background = map.getLayers().getArray().find((layer) => layer.getVisible() && layer instanceof ol.layer.Tile);
      if (error.name !== "SecurityError" || !background) throw error;
      background.setVisible(false);
      saveAsPicture(map, say);
      map.once("rendercomplete", () => background.setVisible(true));
      say("The picture is without the background: its server allows no copies.");
    }
  });
  map.renderSync();
}

function save(picture) {
  picture.toBlob((blob) => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = "map.png";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
  });
}
