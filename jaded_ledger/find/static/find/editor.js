// Find: the editor of a line. A histogram is brushed, a calendar writes its words, values are narrowed by typing.
import { $, all } from "../web/dom.js";
import { inWords } from "./day_words.js";

function close() {
  const editor = $("#editor");
  const line = editor?.previousElementSibling;
  editor?.remove();
  (line?.matches(".line") ? line : $("#typed"))?.focus();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-closes-editor]")) close();
});
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && event.target.closest("#editor")) close();
});
document.addEventListener("htmx:beforeRequest", (event) => {
  // Only one editor at a time.
  if (event.target.matches(".says-it, .sug, [data-adds-group], .menu button")) $("#editor")?.remove();
});

// Fields of several lines: Enter takes what is there, Shift with Enter begins another line.
document.addEventListener("keydown", (event) => {
  const field = event.target;
  if (event.key !== "Enter" || event.shiftKey || !field.matches?.("#editor textarea[data-enters]")) return;
  if (field.dataset.enters === "never" && !event.ctrlKey) return;
  event.preventDefault();
  $('#editor button[name="set"]').click();
});
document.addEventListener("input", (event) => {
  const field = event.target;
  if (field.matches?.("#editor textarea.several")) {
    field.rows = Math.max(field.dataset.enters === "never" ? 3 : 1, Math.min(8, field.value.split("\n").length));
  }
});

// Who names values has given up asking for any at all or for none. In the capture phase: before the line is previewed.
function asksByValue(event) {
  const there = $('#editor [name="there"]');
  const field = event.target;
  if (!there || !field.matches?.("#editor input, #editor textarea, #editor select, #editor .edits")) return;
  if (!field.matches('[name="there"], [name="sense"], [name="unknown"], [name="ask"], [name="raw"], [data-narrows]')) there.value = "";
}
for (const kind of ["input", "change", "brushed"]) document.addEventListener(kind, asksByValue, true);

// The phrase book adds to what is there.
document.addEventListener("click", (event) => {
  const group = event.target.closest?.("#editor [data-phrases]");
  if (!group) return;
  for (const [name, added] of [["words", group.dataset.phrases], ["refused", group.dataset.refused]]) {
    const field = $(`#editor [name="${name}"]`);
    const lines = new Set([...field.value.split("\n"), ...added.split("\n")].map((line) => line.trim()).filter(Boolean));
    field.value = [...lines].join("\n");
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }
});

// The calendar -----------------------------------------------------------------------------------------

document.addEventListener("change", (event) => {
  if (!event.target.matches?.(".calendar input")) return;
  const [first, last] = all(".calendar input").map((field) => field.value);
  $('#editor [name="words"]').value = inWords(first, last);
});

// The brush --------------------------------------------------------------------------------------------

// From which bar to which; null while nothing is brushed.
let from = null;
let to = null;
let isBrushing = false;

const bars = () => all("#editor .brushes .bar");

function paint() {
  const [low, high] = from === null ? [1, 0] : [Math.min(from, to), Math.max(from, to)];
  bars().forEach((bar, place) => bar.classList.toggle("in", place >= low && place <= high));
}

function write() {
  const found = bars();
  const low = found[Math.min(from, to)].dataset.low;
  const high = found[Math.max(from, to)].dataset.high;
  const field = (name) => $(`#editor [name="${name}"]`);
  if ($("#editor [data-brush]").dataset.brush === "date") {
    field("first").value = low;
    field("last").value = high;
    field("words").value = inWords(low, high);
  } else {
    field("low").value = low;
    field("high").value = high;
  }
  const there = field("there");
  if (there) there.value = "";
  $("#editor .edits").dispatchEvent(new CustomEvent("brushed"));
}

function marked() {
  const is = bars().map((bar) => bar.classList.contains("in"));
  return is.includes(true) ? [is.indexOf(true), is.lastIndexOf(true)] : [0, is.length - 1];
}

document.addEventListener("pointerdown", (event) => {
  const bar = event.target.closest?.("#editor .brushes .bar");
  if (!bar) return;
  event.preventDefault();
  from = to = bars().findIndex((one) => one === bar);
  isBrushing = true;
  paint();
});
document.addEventListener("pointermove", (event) => {
  if (!isBrushing) return;
  const bar = document.elementFromPoint(event.clientX, event.clientY)?.closest("#editor .brushes .bar");
  if (bar) to = bars().findIndex((one) => one === bar);
  paint();
});
document.addEventListener("pointerup", () => {
  if (!isBrushing) return;
  isBrushing = false;
  write();
});
document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.(".brushes") || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
  event.preventDefault();
  const step = event.key === "ArrowRight" ? 1 : -1;
  let [low, high] = marked();
  if (event.shiftKey) high = Math.max(low, Math.min(bars().length - 1, high + step));
  else low = Math.min(high, Math.max(0, low + step));
  from = low;
  to = high;
  paint();
  write();
});
