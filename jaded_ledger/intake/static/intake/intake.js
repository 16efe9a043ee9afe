// The mapping page: each change is answered with the form anew, which stays where it was scrolled to.
import { $ } from "../web/dom.js";

const scrolled = {};

document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.target.id !== "mapping") return;
  // What is wrong comes with the page itself.
  if (event.detail.xhr.status === 400) event.detail.shouldSwap = true;
  for (const name of ["columns", "as-read"]) {
    const part = $(`.${name}`, event.target);
    if (part) scrolled[name] = [part.scrollTop, part.scrollLeft];
  }
});

document.addEventListener("htmx:afterSwap", () => {
  for (const [name, [top, left]] of Object.entries(scrolled)) $(`#mapping .${name}`)?.scrollTo({ top, left });
});
