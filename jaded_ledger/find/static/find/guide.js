// Find: a first search, step by step, on the page itself. What a step asks for, once done, leads to the next; it is left at any time.
import { $, all } from "../web/dom.js";

const KEPT = "step of the first search";
const guide = $("#guide");
const steps = all("li", guide);

const stepNow = () => Number(sessionStorage.getItem(KEPT) ?? -1);

function show(step) {
  const is = step >= 0 && step < steps.length;
  guide.hidden = !is;
  if (!is) {
    sessionStorage.removeItem(KEPT);
    return;
  }
  sessionStorage.setItem(KEPT, step);
  steps.forEach((one, place) => { one.hidden = place !== step; });
  $("#guide-place").textContent = `${step + 1} of ${steps.length}`;
  $("[data-guide-next]", guide).textContent = step === steps.length - 1 ? "Done" : "Next";
}

// The lines that were there when the step began do not count.
let before = 0;
function begin(step) {
  before = all(".line").length;
  show(step);
}

function isDone(what) {
  if (what === "chosen") return !$("[data-choose=none]")?.hidden;
  return all(".line").length > before;
}

function look() {
  const what = steps[stepNow()]?.dataset.done;
  if (what && isDone(what)) begin(stepNow() + 1);
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-guide]")) {
    begin(0);
    $("#typed").focus();
  }
  if (event.target.closest("[data-guide-next]")) begin(stepNow() + 1);
  if (event.target.closest("[data-guide-leaves]")) show(-1);
});
document.addEventListener("find:search", look);
document.addEventListener("find:chosen", look);
begin(stepNow());
