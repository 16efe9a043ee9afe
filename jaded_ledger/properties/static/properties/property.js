// The index follows the scroll, and a choice of what to read is taken at once.
import { $, all } from "../web/dom.js";

const right = $(".folio-right");
const links = all(".index a");
const sections = links.map((link) => document.getElementById(link.hash.slice(1)));

function follow() {
  const from = right.getBoundingClientRect().top;
  const atEnd = right.scrollTop + right.clientHeight >= right.scrollHeight - 4;
  const passed = sections.filter((section) => section.getBoundingClientRect().top <= from + 60);
  // The last sections may be too short ever to reach the top.
  const here = atEnd && right.scrollTop > 0 ? (document.activeElement?.closest?.(".index a") ? target() : sections.at(-1)) : (passed.at(-1) ?? sections[0]);
  for (const [place, link] of links.entries()) {
    if (sections[place] === here) link.setAttribute("aria-current", "true");
    else link.removeAttribute("aria-current");
  }
}

function target() {
  return sections.find((section) => `#${section.id}` === location.hash) ?? sections.at(-1);
}

right.addEventListener("scroll", follow, { passive: true });
follow();
for (const field of all("#reading select, #reading input[type=date]")) {
  field.addEventListener("change", () => field.form.requestSubmit());
}
