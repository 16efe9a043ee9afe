// The panel that says how a figure came about: opened by a figure, closed by its button, by Esc or by a click beside it.
import { $, all } from "./dom.js";

function watch(panel) {
  let opener = null;

  function close() {
    if (!panel.firstElementChild) return;
    panel.replaceChildren();
    opener?.focus();
    opener = null;
  }

  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.detail.target === panel) opener = event.detail.elt;
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target === panel) panel.firstElementChild?.focus();
  });
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && panel.firstElementChild) {
      event.preventDefault();
      close();
    }
  });
  // Tab goes from row to row; along a row, arrows go figure by figure.
  document.addEventListener("htmx:load", (event) => {
    for (const figure of all("table.rows a.opens", event.target)) figure.tabIndex = -1;
  });
  document.addEventListener("keydown", (event) => {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const row = event.target.closest?.("table.rows tbody tr");
    if (!step || !row || event.target.matches("input, select")) return;
    const stops = all("th a, a.opens", row);
    const next = stops[stops.findIndex((stop) => stop === event.target) + step];
    if (!next) return;
    event.preventDefault();
    next.focus();
  });
  // A table has hundreds of figures: they are plain links, and this opens them here.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("table.rows a.opens:not([hx-get])");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    htmx.ajax("GET", link.getAttribute("href"), { source: link, target: panel });
  });
  // What is cut off is told in full; what is a dot, why.
  document.addEventListener("pointerover", (event) => {
    const cell = event.target.closest?.("table.rows td");
    if (!cell || cell.title || !cell.firstElementChild?.matches(".opens")) return;
    if (cell.classList.contains("mut")) cell.title = "not known from the records";
    else if (cell.scrollWidth > cell.clientWidth) cell.title = cell.textContent;
  });
  document.addEventListener("click", (event) => {
    const at = event.target;
    if (at.closest("[data-closes-explained]")) close();
    else if (panel.firstElementChild && !panel.contains(at) && !at.closest(".opens")) close();
  });
}

const panel = $("#explained");
// A page such as that of signing in has none.
if (panel) watch(panel);
