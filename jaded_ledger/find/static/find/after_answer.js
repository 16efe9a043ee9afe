// Find: where the focus goes when an answer has come, and what is said when none does.
import { $, all } from "../web/dom.js";
import { forgetActs, isOf } from "./pending_acts.js";

let focusWanted = null;
// The line whose act is under way, and how the line reads to which the hand has moved on since.
let actedOn = null;
let movedTo = null;

let meantFor = null;

/** Have the answer to what is about to be sent give the focus to an element, which may be another one by then. */
export function focusAfter(selector) {
  meantFor = selector;
}

const sentence = (line) => $(".sentence", line)?.textContent;

document.addEventListener("submit", (event) => {
  const meant = meantFor;
  meantFor = null;
  if (meant || !isOf(event.target, "act", "edit")) {
    focusWanted = meant ?? focusWanted;
    return;
  }
  const value = event.submitter?.value ?? "";
  actedOn = event.submitter?.closest(".line") ?? null;
  const number = value.match(/^(strike|apply|unknowns|turn|ask|copy|up|down|join):(\d+)$/);
  if (number) {
    const step = { up: -1, join: -1, down: 1, copy: 1 }[number[1]] ?? 0;
    focusWanted = `#line-${Number(number[2]) + step}`;
  } else {
    focusWanted = "stays" in event.target.dataset ? null : "#typed";
  }
});

document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.target.id !== "search") return;
  const line = document.activeElement?.closest(".line");
  movedTo = line && line !== actedOn ? sentence(line) : null;
});

document.addEventListener("htmx:load", (event) => {
  const loaded = event.target;
  const first = $("[autofocus]", loaded) ?? (loaded.id === "editor" ? $("input:not([type=hidden]), select, textarea", loaded) : null);
  // Whoever is already typing in what was loaded keeps the place; what was typed ahead of an editor was meant for it.
  if (first && !loaded.matches("#search") && !loaded.contains(document.activeElement)) {
    const typed = $("#typed");
    if (loaded.id === "editor" && document.activeElement === typed && typed.value && first.matches("input:not([type=checkbox], [type=radio]), textarea")) {
      first.value = typed.value;
      typed.value = "";
    }
    first.focus();
  }
  if (loaded.id !== "search") return;
  // It may have another number now.
  const moved = movedTo && all(".line").find((line) => sentence(line) === movedTo);
  const wanted = moved || (focusWanted && $(focusWanted));
  focusWanted = actedOn = movedTo = null;
  wanted?.focus();
  if (wanted?.id === "typed") document.dispatchEvent(new Event("find:back-to-box"));
});

document.addEventListener("htmx:responseError", (event) => {
  const { xhr } = event.detail;
  // What a page says of itself comes as a page; a text is meant for here.
  const isText = xhr.getResponseHeader("Content-Type")?.startsWith("text/plain");
  say(isText ? xhr.responseText : "The server could not answer. Nothing is lost; try again.");
});
document.addEventListener("htmx:sendError", () => {
  forgetActs();
  say("The server can’t be reached. The search is as it was; try again when it is back.");
});

function say(text) {
  const place = $("#add-wrong") ?? $("#text-wrong");
  if (!place) return;
  const line = document.createElement("p");
  line.className = "says wrong";
  line.textContent = text;
  place.replaceChildren(line);
}
