// Find: undo and redo of a search, for each window.
import { $ } from "../web/dom.js";
import { faceShown } from "./faces.js";

// The searches of this window, as they were; another window has its own.
const KEY = "find history";

function story() {
  try {
    return JSON.parse(sessionStorage.getItem(KEY)) ?? { past: [], now: null, ahead: [] };
  } catch {
    return { past: [], now: null, ahead: [] };
  }
}

function note() {
  const { search, state } = $("#search").dataset;
  const told = story();
  if (told.now?.search === search) told.now.state = state;
  else if (told.past.at(-1)?.search === search && told.going === "back") {
    told.ahead.push(told.now);
    told.now = told.past.pop();
  } else if (told.ahead.at(-1)?.search === search && told.going === "ahead") {
    told.past.push(told.now);
    told.now = told.ahead.pop();
  } else {
    // Acts that came together, while an answer was awaited, are undone one by one.
    const steps = JSON.parse($("#search").dataset.steps ?? "[]").map(([text, at]) => ({ search: text, state: at }));
    const passed = [told.now, ...steps].filter((step, place, every) => step && step.search !== every[place + 1]?.search && step.search !== search);
    told.past = [...told.past, ...passed].slice(-100);
    told.now = { search, state };
    told.ahead = [];
  }
  delete told.going;
  sessionStorage.setItem(KEY, JSON.stringify(told));
  const undo = $("#undo");
  if (!undo) return;
  undo.disabled = !told.past.length;
  $("#redo").disabled = !told.ahead.length;
}

// Presses that follow fast upon each other each go a step, one after the other.
let isGoing = false;
let waiting = [];

function go(way) {
  if (isGoing) {
    waiting.push(way);
    return;
  }
  const told = story();
  const wanted = (way === "back" ? told.past : told.ahead).at(-1);
  if (!wanted) return;
  isGoing = true;
  sessionStorage.setItem(KEY, JSON.stringify({ ...told, going: way }));
  const address = wanted.state ? `${location.pathname}?${wanted.state}` : location.pathname;
  const asked = { target: "#search", swap: "outerHTML", source: "#book", values: { face: faceShown() } };
  htmx.ajax("GET", address, asked).finally(() => {
    isGoing = false;
    const next = waiting.shift();
    if (next) go(next);
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
