// Dialogs that buttons open; the page's keys (an element with data-key is pressed or focused by its key); and undo.
import { $, all } from "./dom.js";

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-opens]");
  if (opener) document.getElementById(opener.dataset.opens).showModal();
});

const linkOf = (row) => row && ($("th a[href], .id a[href]", row) ?? $("a[href]", row));

/** Return what a key opens that no element of the page names: the row in hand, else the first one. */
function rowToOpen() {
  const here = document.activeElement;
  if (here?.matches("main a[href]")) return here;
  const rows = all("main table.rows tbody tr");
  return linkOf(here?.closest("tbody tr, li")) ?? linkOf(rows.find((row) => row.matches(".looked-at")) ?? rows[0]);
}

function openRow() {
  const link = rowToOpen();
  // A row's link takes its search along once it has the focus.
  link?.focus();
  link?.click();
}

function goBack() {
  if (document.referrer.startsWith(`${location.origin}/`) && history.length > 1) history.back();
  else $(".spine .here")?.click();
}

function doWithout(key) {
  if (key === "b") goBack();
  else if (key === "o") openRow();
  else if (key === "z") $("[data-undo]:not([disabled])")?.click();
  else return false;
  return true;
}

const isShown = (element) => element.checkVisibility();

/** Return the button that waits for a choice alone, as of a list to keep on, once something is chosen. */
const doneWith = (field) => field.matches("select[data-does]") && field.value && $(field.dataset.does);

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.altKey) return;
  const isControl = event.ctrlKey || event.metaKey;
  if (isControl) {
    const wanted = $(`[data-key="Ctrl ${CSS.escape(event.key.toLowerCase())}"]`);
    if (!wanted || event.shiftKey) return;
    event.preventDefault();
    wanted.click();
    return;
  }
  // A choice that was made by key is done by Enter.
  const chosen = event.key === "Enter" && doneWith(event.target);
  if (chosen) {
    event.preventDefault();
    chosen.click();
    return;
  }
  if (!("singleKeys" in document.body.dataset)) return;
  // A box that chooses a row takes no text: the next key is meant for the page.
  if (event.target.closest("input, textarea, select, dialog") && !event.target.matches(".rows [type=checkbox]")) return;
  // On a button or link the bar presses that.
  if (event.key === " " && event.target.closest("button, a, summary")) return;
  if (event.key === "?") {
    event.preventDefault();
    document.getElementById("keys")?.showModal();
    return;
  }
  const wanted = all(`[data-key="${CSS.escape(event.key)}"]`).find(isShown);
  if (!wanted) {
    if (doWithout(event.key)) event.preventDefault();
    return;
  }
  event.preventDefault();
  const button = wanted.matches("input, textarea, select") ? doneWith(wanted) : wanted;
  if (button) {
    button.click();
    return;
  }
  wanted.focus();
  wanted.select?.();
});

// Ctrl Z presses the page's undo, wherever the focus is. Where something was typed, the browser undoes that.
const isTypedIn = (field) => field?.matches?.("input, textarea") && !field.matches("[type=checkbox], [type=radio]") && field.value !== field.defaultValue;

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.altKey || !(event.ctrlKey || event.metaKey) || isTypedIn(event.target)) return;
  const key = event.key.toLowerCase();
  const name = key === "y" || (key === "z" && event.shiftKey) ? "redo" : key === "z" ? "undo" : null;
  const button = name && document.querySelector(`[data-${name}]`);
  if (!button) return;
  event.preventDefault();
  button.click();
});

// The key that leads to a box is no text for it.
document.addEventListener("beforeinput", (event) => {
  const { key } = event.target.dataset ?? {};
  if (key && event.data === key && !event.target.value && /\W/.test(key)) event.preventDefault();
});
