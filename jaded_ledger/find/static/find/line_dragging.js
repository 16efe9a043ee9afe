// Find: lines are dragged; between lines to move one there, onto a line to be an alternative to it.
import { $, all } from "../web/dom.js";
import { act } from "./pending_acts.js";

let dragged = null;

// Onto its middle it joins a line; nearer to an edge it goes before or after it.
function target(event) {
  const line = event.target.closest?.(".line");
  if (!dragged || !line || line === dragged) return null;
  const { top, height } = line.getBoundingClientRect();
  const at = (event.clientY - top) / height;
  return { line, way: at < 0.3 ? "before" : at > 0.7 ? "after" : "onto" };
}

function unmark() {
  for (const line of all(".drop-before, .drop-after, .drop-onto")) line.classList.remove("drop-before", "drop-after", "drop-onto");
}

document.addEventListener("dragstart", (event) => {
  const grip = event.target.closest?.(".grip");
  if (!grip) return;
  dragged = grip.closest(".line");
  event.dataTransfer.effectAllowed = "move";
  event.dataTransfer.setData("text/plain", $(".says-it", dragged).textContent.trim());
});
document.addEventListener("dragover", (event) => {
  unmark();
  const found = target(event);
  if (!found) return;
  event.preventDefault();
  found.line.classList.add(`drop-${found.way}`);
});
document.addEventListener("drop", (event) => {
  const found = target(event);
  if (!found) return;
  event.preventDefault();
  const mine = dragged.dataset.line;
  const other = found.line.dataset.line;
  if (found.way === "onto") act(`join:${mine}:${other}`);
  else if (found.way === "before") act(`move:${mine}:${other}`);
  else {
    const lines = all(".line");
    act(`move:${mine}:${lines[lines.indexOf(found.line) + 1]?.dataset.line ?? "end"}`);
  }
});
document.addEventListener("dragend", () => {
  unmark();
  dragged = null;
});
