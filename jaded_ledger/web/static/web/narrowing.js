// Many boxes to tick, narrowed by typing: a field with data-narrows names the element that holds them.
import { $, all } from "./dom.js";

const plain = (text) => text.toLowerCase().replace(/[-\s]+/g, " ");

const heldBy = (field) => document.getElementById(field.dataset?.narrows ?? "");

function narrow(field) {
  const narrowed = heldBy(field);
  const wanted = plain(field.value.trim()).split(" ");
  for (const option of all(".form-check", narrowed)) {
    const said = plain(`${option.textContent} ${option.dataset.called ?? ""}`);
    option.hidden = !wanted.every((word) => said.includes(word)) && !$("input", option).checked;
  }
  for (const group of all("fieldset", narrowed)) group.hidden = !$(".form-check:not([hidden])", group);
}

// The first that is left is what was meant.
function tickFirst(field) {
  all(".form-check:not([hidden]) input:not(:checked)", heldBy(field))[0]?.click();
}

document.addEventListener(
  "input",
  (event) => {
    if (!("narrows" in (event.target.dataset ?? {}))) return;
    event.stopPropagation();
    if (heldBy(event.target)) narrow(event.target);
  },
  true,
);

document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || !("narrows" in (event.target.dataset ?? {}))) return;
  event.preventDefault();
  if (heldBy(event.target)) tickFirst(event.target);
  else event.target.dataset.entered = "";
});

// Boxes that come after what was typed are narrowed by it, and the first is ticked where Enter did not wait for them.
document.addEventListener("htmx:load", (event) => {
  for (const field of all("[data-narrows]")) {
    if (!field.value || !event.target.contains(heldBy(field))) continue;
    narrow(field);
    if ("entered" in field.dataset) tickFirst(field);
    delete field.dataset.entered;
  }
});

// A chooser that is opened is narrowed at once: what is typed in the same breath is meant for it. The event "toggle" would come after.
document.addEventListener("click", (event) => {
  const chooser = event.target.closest("summary")?.parentElement;
  const field = chooser && !chooser.open && $("[data-narrows]", chooser);
  if (!field) return;
  event.preventDefault();
  chooser.open = true;
  field.focus();
});
