// Find: the box in which a criterion is begun, and its suggestions.
import { $, all, fieldsOf } from "../web/dom.js";

let closedByHand = false;

const offered = () => all("#suggestions .sug");
const marked = () => $('#suggestions .sug[aria-selected="true"]');

function openBox(open) {
  const box = $("#suggestions");
  if (!box) return;
  box.hidden = !open;
  if (open) {
    // As tall as there is room, below the field or above it.
    const field = $("#typed").getBoundingClientRect();
    const below = window.innerHeight - field.bottom - 60;
    const above = field.top - 60;
    box.classList.toggle("above", below < 240 && above > below);
    document.documentElement.style.setProperty("--room", `${Math.max(140, Math.min(430, Math.max(below, below < 240 ? above : 0)))}px`);
  }
  $("#typed").setAttribute("aria-expanded", String(open));
  if (!open) mark(null);
}

function mark(option) {
  marked()?.setAttribute("aria-selected", "false");
  const typed = $("#typed");
  if (!option) {
    typed?.removeAttribute("aria-activedescendant");
    return;
  }
  option.setAttribute("aria-selected", "true");
  picture(option);
  option.scrollIntoView({ block: "nearest" });
  typed.setAttribute("aria-activedescendant", option.id);
}

// How the values of the marked trait are spread over the matches, at the foot of the box.
let pictured = null;

function picture(option) {
  clearTimeout(pictured);
  const { trait } = option.dataset;
  const place = $("#pictured");
  place?.replaceChildren();
  if (!trait || !place) return;
  pictured = setTimeout(() => {
    const values = Object.fromEntries(fieldsOf("#state"));
    htmx.ajax("GET", $("#typed").dataset.pictures, { target: place, values: { ...values, trait } });
  }, 150);
}

function toSection(step) {
  const sections = all("#suggestions [role=group]");
  const at = sections.indexOf(marked()?.closest("[role=group]"));
  const next = sections[at < 0 ? (step > 0 ? 0 : sections.length - 1) : (at + step + sections.length) % sections.length];
  mark($(".sug", next));
  next.scrollIntoView({ block: "start" });
}

// The first that is offered is meant, where the answer is for what is typed; else the server takes what it would have offered first.
// A sentence is always taken by the server: it asks where the sentence finds nothing, and its neighbor finds some.
const isFirstMeant = (typed, first) =>
  first && !$("#reading") && !typed.includes(":") && typed.trim() === $("#suggestions").dataset.typed && !("unsure" in first.dataset);

// Tab goes from part to part of a sentence that is read: its words are selected, and typing replaces them.
const parts = () => all("#suggestions .reading li[data-start]");
const isForWhatIsTyped = () => $("#typed").value.trim() === $("#suggestions").dataset.typed;

function wordsAt(part) {
  const typed = $("#typed").value;
  // Places are told of the text without the spaces before it.
  const before = typed.length - typed.trimStart().length;
  return { start: before + Number(part.dataset.start), end: before + Number(part.dataset.end) };
}

function editPart(part) {
  if (!isForWhatIsTyped()) return false;
  const typed = $("#typed");
  const { start, end } = wordsAt(part);
  typed.focus();
  typed.setSelectionRange(start, end);
  parts().forEach((other) => other.classList.toggle("edited", other === part));
  return true;
}

function toPart(step) {
  const { selectionStart, selectionEnd } = $("#typed");
  const places = parts().map((part) => ({ part, ...wordsAt(part) }));
  places.sort((one, other) => one.start - other.start);
  const at = places.findIndex(({ start, end }) => start === selectionStart && end === selectionEnd);
  const next = at < 0 ? places.at(step > 0 ? 0 : -1) : places[at + step];
  return Boolean(next) && editPart(next.part);
}

function inBox(event) {
  const options = offered();
  const at = options.indexOf(marked());
  const box = $("#suggestions");
  if (event.key === "/" && !event.target.value) {
    // The key that leads here, pressed once more: no criterion begins with it.
    event.preventDefault();
  } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    event.preventDefault();
    if (!options.length) return event.target.click();
    if (box.hidden) openBox(true);
    const step = event.key === "ArrowDown" ? 1 : -1;
    mark(options[at < 0 && step < 0 ? options.length - 1 : (at + step + options.length) % options.length]);
  } else if ((event.key === "ArrowLeft" || event.key === "ArrowRight") && !event.target.value && $("#suggestions .sections")) {
    event.preventDefault();
    toSection(event.key === "ArrowRight" ? 1 : -1);
  } else if (event.key === "Enter") {
    if (marked()) {
      event.preventDefault();
      marked().click();
    } else if (!event.target.value.trim()) {
      event.preventDefault();
    } else if (isFirstMeant(event.target.value, options[0])) {
      event.preventDefault();
      options[0].click();
    }
  } else if (event.key === "Escape") {
    event.preventDefault();
    // Out of the box: the next key is meant for the page.
    event.target.blur();
    closedByHand = true;
    openBox(false);
  } else if (event.key === "Tab") {
    if (!box.hidden && toPart(event.shiftKey ? -1 : 1)) event.preventDefault();
    else openBox(false);
  }
}

document.addEventListener("keydown", (event) => {
  if (event.target.id === "typed") inBox(event);
});
document.addEventListener("mouseover", (event) => {
  const option = event.target.closest?.("#suggestions .sug");
  if (option && !marked()) picture(option);
});
document.addEventListener("click", (event) => {
  const part = event.target.closest?.("#suggestions .reading li[data-start]");
  if (part) editPart(part);
  const section = event.target.closest?.(".to-section")?.dataset.section;
  if (section) mark($(".sug", document.getElementById(section)));
  if (section) document.getElementById(section).scrollIntoView({ block: "start" });
});

// A pasted column is matched line by line; one line is typed as any other.
document.addEventListener("paste", (event) => {
  if (event.target.id !== "typed") return;
  const text = event.clipboardData.getData("text/plain");
  if (text.trim().split(/\r?\n/).length < 2) return;
  event.preventDefault();
  openBox(false);
  const values = Object.fromEntries(fieldsOf("#state"));
  htmx.ajax("POST", $("#typed").dataset.pasted, { source: "#typed", target: "#new-line", swap: "innerHTML", values: { ...values, pasted: text } });
});
document.addEventListener("input", (event) => {
  if (event.target.id !== "typed") return;
  closedByHand = false;
  mark(null);
});
document.addEventListener("focusin", (event) => {
  if (event.target.id === "typed") closedByHand = false;
  else if (!event.target.closest("#add")) openBox(false);
});
document.addEventListener("mousedown", (event) => {
  if (!event.target.closest("#add")) openBox(false);
  else if (event.target.id === "typed") closedByHand = false;
  // The box must not close under the pointer before the click is done.
  if (event.target.closest(".sug, .to-section, .reading")) event.preventDefault();
});

// What is typed goes with its act; the box is free for the next at once.
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.target.id !== "add") return;
  $("#typed").value = "";
  openBox(false);
});

// What was typed since goes on into the box, or the editor, that the answer brings.
let typedAhead = "";
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.target.id === "search") typedAhead = document.activeElement?.id === "typed" ? document.activeElement.value : "";
});
document.addEventListener("htmx:load", (event) => {
  if (event.target.id !== "search" || !typedAhead) return;
  const typed = $("#typed");
  typed.value = typedAhead;
  typed.focus();
  typedAhead = "";
  closedByHand = false;
  typed.dispatchEvent(new Event("input", { bubbles: true }));
});

// What was marked stays marked when an answer that comes later still offers it.
let keptMark = null;
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.target.id === "suggestions") keptMark = marked()?.textContent;
});

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "suggestions") return;
  const typed = $("#typed");
  // What the answer is for, which may be less than what the field holds by now.
  const asked = new URL(event.detail.pathInfo.finalRequestPath, location.href).searchParams.get("typed") ?? "";
  event.target.dataset.typed = asked.trim();
  if (document.activeElement !== typed || closedByHand) return;
  openBox(true);
  mark(keptMark ? offered().find((option) => option.textContent === keptMark) : null);
});

// What is near a sentence that finds nothing comes with its counts, and may be offered without one already.
document.addEventListener("htmx:load", (event) => {
  if (!event.target.id.startsWith("sug-near")) return;
  offered()
    .filter((other) => other !== event.target && other.value === event.target.value)
    .forEach((other) => other.remove());
});

// What was typed while the page's scripts were still on their way is asked for once they are there.
document.addEventListener("htmx:load", (event) => {
  const typed = $("#typed");
  if (event.target === document.body && document.activeElement === typed && typed?.value.trim()) htmx.trigger(typed, "click");
});

document.addEventListener("htmx:load", (event) => {
  if (event.target.matches("#editor, tr.editor") || event.target.querySelector?.("#editor")) openBox(false);
});

// After an edit the box stays shut until something is typed, so that the answer can be read.
document.addEventListener("find:back-to-box", () => {
  closedByHand = true;
  openBox(false);
});
