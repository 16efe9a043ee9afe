// Comps: keys on the rows, the reason why a comp is out, and which one is looked at on the strip and the map.
import { $, all } from "../web/dom.js";

const rows = () => all("tr[data-comp]");
const singleKeys = () => "singleKeys" in document.body.dataset;
// What to come back to when the book has been drawn anew.
let lookedAt = null;

/** Press a row's button with what the form says of it. */
function press(row, action, fields = {}) {
  const form = $("#acts");
  for (const [name, value] of Object.entries(fields)) form.elements[name].value = value;
  const button = document.createElement("button");
  button.type = "submit";
  button.name = "do";
  button.value = `${action}:${row.dataset.comp}`;
  button.hidden = true;
  form.append(button);
  button.click();
  button.remove();
}

function putOut(row) {
  const dialog = $("#why-out");
  if (!dialog) return;
  $("#reason").value = "";
  dialog.onclose = () => {
    if (dialog.returnValue === "out") press(row, "out", { reason: $("#reason").value });
    dialog.returnValue = "";
  };
  dialog.showModal();
}

function turn(row) {
  const button = $("button.note", row);
  if (!button) return;
  if (button.value.startsWith("out:")) putOut(row);
  else button.click();
}

function lookAt(row) {
  lookedAt = row?.dataset.comp ?? null;
  for (const one of all(".looked-at", $("#comps"))) one.classList.remove("looked-at");
  if (!row) return;
  for (const one of all(`[data-of="${CSS.escape(row.dataset.comp)}"], [data-parcel="${row.dataset.parcel}"]:not(tr)`)) one.classList.add("looked-at");
}

function step(from, by) {
  const every = rows();
  const next = every[Math.min(every.length - 1, Math.max(0, from ? every.indexOf(from) + by : 0))];
  next?.focus();
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("tr[data-comp] button.note");
  if (button?.value.startsWith("out:") && $("#why-out") && event.isTrusted) {
    event.preventDefault();
    putOut(button.closest("tr"));
  }
  const mark = event.target.closest("[data-of]");
  if (mark) $(`#comp-${CSS.escape(mark.dataset.of)}`)?.focus();
});

document.addEventListener("focusin", (event) => {
  const row = event.target.closest?.("tr[data-comp]");
  if (row) lookAt(row);
});

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || !singleKeys()) return;
  if (event.target.closest("input, textarea, select, dialog, .comps-map.drawing")) return;
  const row = event.target.closest("tr[data-comp]") ?? (lookedAt && $(`#comp-${CSS.escape(lookedAt)}`));
  const done = {
    ".": () => step(row, 1),
    ",": () => step(row, -1),
    ArrowDown: () => row && step(row, 1),
    ArrowUp: () => row && step(row, -1),
    x: () => row && turn(row),
    g: () => row && $("button.note", row) && press(row, "grade", { grade_now: row.dataset.grade }),
  }[event.key];
  if (!done || (!row && ![".", ","].includes(event.key))) return;
  event.preventDefault();
  done();
});

// A change of the pool is saved, so the page before it must say its lines in its address: there the back button leads to them.
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.target.closest?.("#pool");
  const address = new URL(location.href);
  if (!form || address.searchParams.has("lines")) return;
  address.searchParams.set("lines", form.elements.lines.value);
  history.replaceState(history.state, "", address);
});

// The row that was worked on is in hand again when the answer is there.
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.elt.id !== "comps" || !lookedAt) return;
  const row = $(`#comp-${CSS.escape(lookedAt)}`);
  if (row && (document.activeElement === document.body || document.activeElement === null)) row.focus();
});
