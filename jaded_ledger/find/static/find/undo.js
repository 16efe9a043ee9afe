// Find: undo and redo of a search, for each window.
import { $ } from "../web/dom.js";
import { faceShown } from "./faces.js";
import { EMPTY, next, noted } from "./search_history.js";

// The searches of this window, as they were; another window has its own.
const KEY = "find history";

/** @returns {import("./search_history.js").SearchHistory} */
function held() {
  try {
    return JSON.parse(sessionStorage.getItem(KEY)) ?? EMPTY;
  } catch {
    return EMPTY;
  }
}

const hold = (history) => sessionStorage.setItem(KEY, JSON.stringify(history));

function note() {
  const { search, state, steps } = $("#search").dataset;
  const history = noted(held(), { search, state }, JSON.parse(steps ?? "[]").map(([text, at]) => ({ search: text, state: at })));
  hold(history);
  const undo = $("#undo");
  if (!undo) return;
  undo.disabled = !history.past.length;
  $("#redo").disabled = !history.ahead.length;
}

// Presses that follow fast upon each other each go a step, one after the other.
let isGoing = false;
const waiting = [];

function go(way) {
  if (isGoing) {
    waiting.push(way);
    return;
  }
  const history = held();
  const wanted = next(history, way);
  if (!wanted) return;
  isGoing = true;
  hold({ ...history, going: way });
  const address = wanted.state ? `${location.pathname}?${wanted.state}` : location.pathname;
  const asked = { target: "#search", swap: "outerHTML", source: "#book", values: { face: faceShown() } };
  htmx.ajax("GET", address, asked).finally(() => {
    isGoing = false;
    const then = waiting.shift();
    if (then) go(then);
  });
}

document.addEventListener("click", (event) => {
  if (event.target.closest("#undo")) go("back");
  if (event.target.closest("#redo")) go("ahead");
});
document.addEventListener("htmx:load", (event) => {
  if (event.target.id === "search") note();
});
note();
