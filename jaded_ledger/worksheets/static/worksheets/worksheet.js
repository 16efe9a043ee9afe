// A worksheet: each field is sent by itself when it is left or Enter is pressed; what is typed meanwhile in another is kept.
import { $, all } from "../web/dom.js";

const sheet = () => $("#worksheet");

// What was sent, by the field's name: what differs from it was typed since.
const sent = new Map();

// What was there when an answer came, while it is put in place: where somebody is, what they typed and what they opened outlive it.
let held = null;

// One request after another: each is sent from the page as the one before left it, so that none is lost with the page that it replaces.
let before = Promise.resolve();

/** Send one field or act, and show the worksheet as it then stands. */
function send(values) {
  for (const [name, value] of Object.entries(values)) sent.set(name, value);
  const ask = () => window.htmx.ajax("POST", sheet().dataset.change, { source: sheet(), target: "#worksheet", swap: "outerHTML", values });
  before = before.then(ask, ask);
}

const valueOf = (field) => (field.type === "checkbox" ? String(field.checked) : field.value);

document.addEventListener("change", (event) => {
  const field = event.target.closest("#worksheet [name]");
  // A field that is half typed is taken from the page by an answer, which the browser tells as a change. Enter sends a change, and the
  // browser tells of it once more when the field is left.
  if (held || !field || field.closest("form") || field.dataset.sent === valueOf(field)) return;
  field.dataset.sent = valueOf(field);
  send({ [field.name]: valueOf(field) });
});

document.addEventListener("click", (event) => {
  const button = event.target.closest("#worksheet [data-do], #worksheet [data-set]");
  if (button) send(button.dataset.do ? { do: button.dataset.do } : { [button.dataset.set]: "" });
});

document.addEventListener("focusin", (event) => {
  if (event.target.matches("#worksheet .typed input")) event.target.select();
});

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented) return;
  const field = event.target.closest("#worksheet input[name]");
  if (event.key === "Enter" && field && !field.closest("form")) {
    event.preventDefault();
    if (field.value !== field.defaultValue) field.dispatchEvent(new Event("change", { bubbles: true }));
    return;
  }
  if (event.key === "Escape" && field) {
    field.value = field.defaultValue;
    return;
  }
  const isUndo = event.key === "z" && (event.ctrlKey || event.metaKey) && !event.shiftKey;
  if (isUndo && sheet() && (!field || field.value === field.defaultValue)) {
    event.preventDefault();
    $("[data-undo-here]:not(:disabled)")?.click();
  }
});

document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id !== "worksheet") return;
  const field = document.activeElement?.closest("#worksheet [name], #worksheet [data-do]");
  // An input may stand in several exits: the one that somebody is in is told by its place among them.
  const at = field && `#worksheet ${field.name ? `[name="${CSS.escape(field.name)}"]` : `[data-do="${CSS.escape(field.dataset.do)}"]`}`;
  held = {
    at,
    place: at ? all(at).findIndex((one) => one === field) : 0,
    typed: field?.name && field.value !== field.defaultValue && field.type !== "radio" ? field.value : null,
    name: field?.name,
    opened: all("#worksheet details[open]").map((one) => one.dataset.keeps),
  };
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id !== "worksheet" || !held) return;
  for (const key of held.opened) $(`#worksheet details[data-keeps="${CSS.escape(key)}"]`)?.setAttribute("open", "");
  const field = held.at && (all(held.at)[held.place] ?? $(held.at));
  if (field) {
    field.focus({ preventScroll: true });
    const isMissing = $("#worksheet > .says.wrong") || sent.get(held.name) !== held.typed;
    if (held.typed !== null && isMissing && "selectionStart" in field) {
      field.value = held.typed;
      field.setSelectionRange(held.typed.length, held.typed.length);
    }
  }
  held = null;
});
