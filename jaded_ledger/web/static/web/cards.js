// On a narrow screen a table of many columns is a row of cards: each figure stands beside its heading.
import { all } from "./dom.js";

const MANY = 7;
const narrow = window.matchMedia("(max-width: 760px)");

function label(table) {
  const headings = all("thead th", table).map((cell) => cell.textContent.trim());
  if (headings.length < MANY) return;
  table.classList.add("as-cards");
  for (const row of all("tbody tr", table)) {
    // A cell that spans others has no heading of its own.
    if ([...row.cells].some((cell) => cell.colSpan > 1)) continue;
    for (const [place, cell] of [...row.cells].entries()) {
      cell.dataset.heading = headings[place] ?? "";
      cell.classList.toggle("blank-cell", !cell.textContent.trim() && !cell.querySelector("input, button, select, svg, img"));
    }
  }
}

function labelAll(within) {
  if (narrow.matches) for (const table of all("table.rows", within)) label(table);
}

narrow.addEventListener("change", () => labelAll(document));
document.addEventListener("htmx:load", ({ target }) => labelAll(target.closest("table.rows")?.parentElement ?? target));
labelAll(document);
