// The index follows the scroll, and a choice of what to read is taken at once.
import { $, all } from "../web/dom.js";

const right = $(".folio-right");
const links = all(".index a");
let sections = [];

function find() {
  sections = links.map((link) => document.getElementById(link.hash.slice(1)));
  // What an app has nothing to say in is not there.
  for (const [place, link] of links.entries()) link.hidden = !sections[place];
  follow();
}

function follow() {
  const from = right.getBoundingClientRect().top;
  const atEnd = right.scrollTop + right.clientHeight >= right.scrollHeight - 4;
  const passed = sections.filter((section) => section?.getBoundingClientRect().top <= from + 60);
  // The last sections may be too short ever to reach the top.
  const here = atEnd && right.scrollTop > 0 ? (document.activeElement?.closest?.(".index a") ? target() : sections.at(-1)) : (passed.at(-1) ?? sections[0]);
  for (const [place, link] of links.entries()) {
    if (sections[place] === here) link.setAttribute("aria-current", "true");
    else link.removeAttribute("aria-current");
  }
}

function target() {
  return sections.find((section) => `#${section?.id}` === location.hash) ?? sections.at(-1);
}

right.addEventListener("scroll", follow, { passive: true });
find();
// An address that leads to a section which has come since is followed once more, unless somebody went elsewhere meanwhile.
let isLed = true;
window.addEventListener("hashchange", () => {
  isLed = true;
});
for (const moves of ["wheel", "touchmove", "keydown", "pointerdown"]) {
  document.addEventListener(moves, () => {
    isLed = false;
  }, { passive: true });
}
document.addEventListener("htmx:afterSettle", (event) => {
  if (!["more", "others"].includes(event.target.id) && !event.target.closest?.("#more")) return;
  find();
  if (location.hash && isLed) document.getElementById(location.hash.slice(1))?.scrollIntoView();
});
// A choice is an act: nothing is left to press.
for (const field of all("[data-sends]")) field.addEventListener("change", () => field.form.requestSubmit());
for (const field of all("#reading select, #reading input[type=date]")) {
  field.addEventListener("change", () => field.form.requestSubmit());
}
