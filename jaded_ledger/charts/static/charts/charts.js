// Charts: drawn anew for each search, and narrowing it by a click or a brush.
import { $, all } from "../web/dom.js";
import { act } from "../find/pending_acts.js";
import { inWords } from "../find/day_words.js";

const KEPT = "chart";
const face = () => $("#face-charts");
const form = () => $("#chart-form");

// What was looked at last is there again ----------------------------------------------------------------

function fitFields() {
  const { chart } = form().elements;
  for (const label of all("[data-for]", form())) label.hidden = !label.dataset.for.split(" ").includes(chart.value);
}

function keep() {
  const { chart, x, y, by, beside } = form().elements;
  sessionStorage.setItem(KEPT, JSON.stringify({ chart: chart.value, x: x.value, y: y.value, by: by.value, beside: beside.checked }));
}

function restore() {
  try {
    const kept = JSON.parse(sessionStorage.getItem(KEPT)) ?? {};
    const { elements } = form();
    for (const name of ["chart", "x", "y", "by"]) if (kept[name]) elements[name].value = kept[name];
    elements.beside.checked = Boolean(kept.beside);
  } catch {
    sessionStorage.removeItem(KEPT);
  }
  fitFields();
}

document.addEventListener("change", (event) => {
  if (event.target.form?.id !== "chart-form") return;
  fitFields();
  keep();
});
document.addEventListener("find:search", (event) => {
  if (event.target.id === "face-charts") htmx.trigger(form(), "draw");
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-prints]")) window.print();
});

// A click or a brush is a criterion -----------------------------------------------------------------------

const bars = (drawing) => all(".bar[data-adds]", drawing);

function rangeOf(drawing, from, to) {
  const every = bars(drawing);
  const low = every[Math.min(from, to)].dataset.low;
  const high = every[Math.max(from, to)].dataset.high;
  return isDate(low) || isDate(high) ? inWords(low, high) : `${low}..${high}`;
}

const isDate = (text) => /^\d{4}-\d\d-\d\d$/.test(text);

let brush = null;

function barAt(drawing, event) {
  const every = bars(drawing);
  return every.findIndex((bar) => {
    const { left, right } = bar.firstElementChild.nextElementSibling.getBoundingClientRect();
    return event.clientX >= left && event.clientX <= right;
  });
}

// A place in the drawing's own pixels, kept within its axes.
function placeIn(drawing, event) {
  const { left, top, width } = drawing.getBoundingClientRect();
  const scale = drawing.viewBox.baseVal.width / width;
  const ends = Object.fromEntries(["left", "top", "right", "bottom"].map((side) => [side, Number(drawing.dataset[side])]));
  return {
    x: Math.min(ends.right, Math.max(ends.left, (event.clientX - left) * scale)),
    y: Math.min(ends.bottom, Math.max(ends.top, (event.clientY - top) * scale)),
    ends,
  };
}

document.addEventListener("pointerdown", (event) => {
  const drawing = event.target.closest?.(".chart[data-brush] .drawing");
  const way = drawing?.closest(".chart").dataset.brush;
  if (!way || event.button) return;
  if (way === "x") {
    const from = barAt(drawing, event);
    if (from < 0) return;
    brush = { way, drawing, from, to: from };
    paintBars();
  } else {
    const rectangle = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    rectangle.classList.add("brushed");
    drawing.append(rectangle);
    brush = { way, drawing, from: placeIn(drawing, event), to: placeIn(drawing, event), rectangle };
  }
  event.preventDefault();
});

function paintBars() {
  const [low, high] = [Math.min(brush.from, brush.to), Math.max(brush.from, brush.to)];
  bars(brush.drawing).forEach((bar, place) => bar.classList.toggle("in", place >= low && place <= high));
}

document.addEventListener("pointermove", (event) => {
  if (!brush) return;
  if (brush.way === "x") {
    const to = barAt(brush.drawing, event);
    if (to >= 0) brush.to = to;
    paintBars();
    return;
  }
  brush.to = placeIn(brush.drawing, event);
  const { from, to, rectangle } = brush;
  const sides = { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), width: Math.abs(from.x - to.x), height: Math.abs(from.y - to.y) };
  for (const [name, value] of Object.entries(sides)) rectangle.setAttribute(name, value);
});

function valueAt(drawing, name, share) {
  const data = (key) => drawing.dataset[`${name}${key}`];
  const value = Number(data("Low")) + share * (Number(data("High")) - Number(data("Low")));
  if (data("Kind") !== "date") return value.toFixed(Number(data("Decimals")));
  // Day 719,163 is the first of 1970.
  return new Date((Math.round(value) - 719163) * 86400000).toISOString().slice(0, 10);
}

function criterion(drawing, name, first, last) {
  const [low, high] = [Math.min(first, last), Math.max(first, last)].map((share) => valueAt(drawing, name, share));
  return `${drawing.dataset[name]}: ${drawing.dataset[`${name}Kind`] === "date" ? inWords(low, high) : `${low}..${high}`}`;
}

document.addEventListener("pointerup", () => {
  if (!brush) return;
  const { way, drawing, from, to, rectangle } = brush;
  brush = null;
  if (way === "x") {
    act(`add:${drawing.closest(".chart").dataset.trait}: ${rangeOf(drawing, from, to)}`);
    return;
  }
  rectangle.remove();
  if (Math.abs(from.x - to.x) < 4 || Math.abs(from.y - to.y) < 4) return;
  const across = ({ x, ends }) => (x - ends.left) / (ends.right - ends.left);
  const up = ({ y, ends }) => (ends.bottom - y) / (ends.bottom - ends.top);
  act(`add:${criterion(drawing, "x", across(from), across(to))}\n${criterion(drawing, "y", up(from), up(to))}`);
});

document.addEventListener("click", (event) => {
  const bar = event.target.closest?.(".chart:not([data-brush='x']) .bar[data-adds]");
  if (bar) act(`add:${bar.dataset.adds}`);
});

// By keyboard: bars are walked along with the arrows, and taken with Enter; with Shift several.
document.addEventListener("keydown", (event) => {
  const bar = event.target.closest?.(".bar[data-adds]");
  if (!bar) return;
  const drawing = bar.closest(".drawing");
  const every = bars(drawing);
  const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
  const place = every.indexOf(bar);
  if (step && every[place + step]) {
    event.preventDefault();
    const next = every[place + step];
    if (!event.shiftKey || !brush) brush = event.shiftKey ? { way: "keys", drawing, from: place, to: place + step } : null;
    else brush.to = place + step;
    every.forEach((one, at) => {
      one.classList.toggle("in", Boolean(brush) && at >= Math.min(brush.from, brush.to) && at <= Math.max(brush.from, brush.to));
      one.setAttribute("tabindex", one === next ? "0" : "-1");
    });
    next.focus();
  } else if (event.key === "Enter") {
    event.preventDefault();
    const [from, to] = brush?.way === "keys" ? [brush.from, brush.to] : [place, place];
    brush = null;
    if (drawing.closest(".chart").dataset.brush === "x") act(`add:${drawing.closest(".chart").dataset.trait}: ${rangeOf(drawing, from, to)}`);
    else act(`add:${bar.dataset.adds}`);
  }
});
document.addEventListener("htmx:load", (event) => {
  for (const drawing of all(".drawing", event.target)) {
    bars(drawing).forEach((bar, place) => {
      bar.setAttribute("tabindex", place ? "-1" : "0");
      bar.setAttribute("role", "button");
      bar.setAttribute("aria-label", $("title", bar).textContent);
    });
    if (bars(drawing).length) drawing.setAttribute("role", "group");
  }
});

if (face()) {
  restore();
  htmx.trigger(form(), "draw");
}
