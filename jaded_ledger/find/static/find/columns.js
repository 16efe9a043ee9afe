// Find: the table's columns: sorted by, moved, made wider and taken away, by mouse and by keyboard; and how much room they have.
import { $, all } from "../web/dom.js";
import { focusAfter } from "./after_answer.js";
import { keepLayout, redraw } from "./faces.js";
import { act } from "./pending_acts.js";

const STEP = 16;
const NARROWEST = 40;
const headings = () => all(".rows thead [data-column]");

// Widths are rules of a sheet of their own: a row has no style of itself.
const widths = new CSSStyleSheet();
document.adoptedStyleSheets.push(widths);

function showWidths() {
  const rules = headings().map((heading) => {
    const { width } = heading.dataset;
    const column = heading.cellIndex + 1;
    return width ? `.rows tr > :nth-child(${column}) { min-width: ${width}px; max-width: ${width}px; overflow: hidden; text-overflow: ellipsis; }` : "";
  });
  widths.replaceSync(rules.join("\n"));
}

function widen(heading, width) {
  heading.dataset.width = Math.round(Math.max(NARROWEST, width));
  showWidths();
}

let keeping;
function keepSoon(heading) {
  clearTimeout(keeping);
  keeping = setTimeout(() => keepLayout({ column: heading.dataset.column, width: heading.dataset.width ?? 0 }), 150);
}

// Sized at its edge ---------------------------------------------------------------------------------

document.addEventListener("pointerdown", (event) => {
  if (!event.target.matches?.(".sizer")) return;
  event.preventDefault();
  const heading = event.target.closest("th");
  const from = heading.getBoundingClientRect().left;
  const moves = (at) => widen(heading, at.clientX - from);
  const ends = () => {
    document.removeEventListener("pointermove", moves);
    keepSoon(heading);
  };
  document.addEventListener("pointermove", moves);
  document.addEventListener("pointerup", ends, { once: true });
});
document.addEventListener("dblclick", (event) => {
  if (!event.target.matches?.(".sizer")) return;
  const heading = event.target.closest("th");
  delete heading.dataset.width;
  showWidths();
  keepSoon(heading);
});

// Moved, by its heading or by keyboard: shown at once, so that the next key finds it where it is ------

const buttonOf = (key) => `.rows thead [data-column="${CSS.escape(key)}"] button`;

function place(heading, before) {
  const key = heading.dataset.column;
  const from = heading.cellIndex;
  const to = before?.cellIndex ?? heading.parentElement.cells.length;
  const { length } = heading.parentElement.cells;
  const hadFocus = heading.contains(document.activeElement);
  for (const row of $(".rows").rows) {
    if (row.cells.length === length) row.insertBefore(row.cells[from], row.cells[to] ?? null);
  }
  if (hadFocus) {
    $("button", heading).focus();
    focusAfter(buttonOf(key));
  }
  showWidths();
  act(`place:${key}:${before?.dataset.column ?? "end"}`);
}

// Dragged ------------------------------------------------------------------------------

let dragged = null;

document.addEventListener("dragstart", (event) => {
  dragged = event.target.closest?.(".rows thead [data-column]") ?? null;
  if (dragged) event.dataTransfer.setData("text/plain", dragged.dataset.column);
});
document.addEventListener("dragover", (event) => {
  const over = dragged && event.target.closest?.(".rows thead [data-column]");
  for (const heading of all(".drop-here")) heading.classList.remove("drop-here");
  if (!over || over === dragged) return;
  event.preventDefault();
  over.classList.add("drop-here");
});
document.addEventListener("drop", (event) => {
  const over = dragged && event.target.closest?.(".rows thead [data-column]");
  if (!over || over === dragged) return;
  event.preventDefault();
  const every = headings();
  // Dragged to the right it comes behind the one that it is dropped on.
  place(dragged, every.indexOf(dragged) < every.indexOf(over) ? every[every.indexOf(over) + 1] : over);
});
document.addEventListener("dragend", () => {
  for (const heading of all(".drop-here")) heading.classList.remove("drop-here");
  dragged = null;
});

// By keyboard, on a heading ---------------------------------------------------------------------------

document.addEventListener("keydown", (event) => {
  const heading = event.target.closest?.(".rows thead [data-column]");
  if (!heading) return;
  const every = headings();
  const at = every.indexOf(heading);
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  const key = heading.dataset.column;
  if (event.key === "Delete") {
    const next = every[at + 1] ?? every[at - 1];
    if (next) {
      $("button", next).focus();
      focusAfter(buttonOf(next.dataset.column));
    }
    act(`hide:${key}`);
  } else if (step && event.altKey && event.shiftKey) {
    widen(heading, heading.getBoundingClientRect().width + step * STEP);
    keepSoon(heading);
  } else if (step && event.altKey) {
    if (!every[at + step]) return;
    place(heading, every[at + (step > 0 ? 2 : -1)]);
  } else if (step) {
    $("button", every[at + step] ?? heading).focus();
  } else {
    return;
  }
  event.preventDefault();
  event.stopPropagation();
}, true);

// Sorted by several: with Shift a heading comes after those that the rows are sorted by already.
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("button[data-also]");
  if (!button) return;
  if (event.shiftKey) button.value = button.dataset.also;
  const { column } = button.closest("th").dataset;
  if (column) focusAfter(buttonOf(column));
}, true);

// As many columns as there is room for ----------------------------------------------------------------

const room = () => $("#faces").clientWidth;

document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.elt.closest("#book, .book")) event.detail.parameters.room = room();
});

const isUsual = () => !new URLSearchParams($("#search").dataset.state).has("columns");
let told = room();

function tellRoom() {
  if (Math.abs(room() - told) < 8) return;
  told = room();
  keepLayout({ room: told });
  if ($("#face-table") && isUsual()) redraw("table");
}

let telling;
new ResizeObserver(() => {
  clearTimeout(telling);
  telling = setTimeout(tellRoom, 250);
}).observe($("#faces"));

// The page came with as many as the last window of its user had room for.
if (Number($("#faces").dataset.room) !== room()) {
  told = Number($("#faces").dataset.room);
  tellRoom();
}

document.addEventListener("find:search", (event) => {
  if (event.target.id !== "face-table") return;
  showWidths();
});
showWidths();
