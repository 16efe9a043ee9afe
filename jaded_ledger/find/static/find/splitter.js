// Find: the width of the ledger, by mouse and by keyboard. It is kept for the user.
import { $ } from "../web/dom.js";
import { keepLayout } from "./faces.js";

const splitter = $("#splitter");
const STEP = 16;

const width = () => Number(splitter.ariaValueNow);

function widen(wanted) {
  const fits = Math.round(Math.min(Math.max(wanted, Number(splitter.ariaValueMin)), Number(splitter.ariaValueMax)));
  splitter.ariaValueNow = String(fits);
  $("#book").style.setProperty("--ledger-width", `${fits}px`);
}

let keeping;
function keepSoon() {
  clearTimeout(keeping);
  keeping = setTimeout(() => keepLayout({ ledger_width: width() }), 150);
}

splitter.addEventListener("pointerdown", (event) => {
  splitter.setPointerCapture(event.pointerId);
  splitter.classList.add("held");
});
splitter.addEventListener("pointermove", (event) => {
  if (splitter.hasPointerCapture(event.pointerId)) widen(event.clientX - $("#left").getBoundingClientRect().left);
});
splitter.addEventListener("lostpointercapture", () => {
  splitter.classList.remove("held");
  keepSoon();
});
splitter.addEventListener("dblclick", () => {
  widen(Number(splitter.dataset.usual));
  keepSoon();
});
splitter.addEventListener("keydown", (event) => {
  const wanted = { ArrowLeft: width() - STEP, ArrowRight: width() + STEP, Home: 0, End: Infinity }[event.key];
  if (wanted === undefined || event.altKey || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  widen(wanted);
  keepSoon();
});
