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
  // Along a row of the table, figure by figure.
  document.addEventListener("keydown", (event) => {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const row = event.target.closest?.("table.rows tbody tr");
    if (!step || !row || event.target.matches("input, select")) return;
    const stops = all("th a, a.opens", row);
    const next = stops[stops.indexOf(event.target) + step];
    if (!next) return;
    event.preventDefault();
    next.focus();
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
