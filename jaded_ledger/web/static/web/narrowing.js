// Many boxes to tick, narrowed by typing: a field with data-narrows names the element that holds them.
import { $, all } from "./dom.js";

const plain = (text) => text.toLowerCase().replace(/[-\s]+/g, " ");

document.addEventListener(
  "input",
  (event) => {
    const narrowed = document.getElementById(event.target.dataset?.narrows ?? "");
    if (!narrowed) return;
    event.stopPropagation();
    const wanted = plain(event.target.value.trim()).split(" ");
    for (const option of all(".form-check", narrowed)) {
      const said = plain(`${option.textContent} ${option.dataset.called ?? ""}`);
      option.hidden = !wanted.every((word) => said.includes(word)) && !$("input", option).checked;
    }
    for (const group of all("fieldset", narrowed)) group.hidden = !$(".form-check:not([hidden])", group);
  },
  true,
);

// The first that is left is what was meant.
document.addEventListener("keydown", (event) => {
  const narrowed = document.getElementById(event.target.dataset?.narrows ?? "");
  if (event.key !== "Enter" || !narrowed) return;
  event.preventDefault();
  all(".form-check:not([hidden]) input:not(:checked)", narrowed)[0]?.click();
});

// A chooser that is opened is narrowed at once.
document.addEventListener("toggle", (event) => event.target.open && $("[data-narrows]", event.target)?.focus(), true);
