// Find: keys on a line of the ledger, and the menu of a line.
import { $, all } from "../web/dom.js";

const pressed = { s: "strike", c: "copy", r: "turn", g: "join" };

function press(line, verb) {
  line.querySelector(`button[name="do"][value^="${verb}:"]:not([disabled])`)?.click();
}

document.addEventListener("keydown", (event) => {
  const line = event.target.closest?.(".line");
  if (!line || event.target.closest("input, select, textarea") || event.ctrlKey || event.metaKey) return;
  const single = "singleKeys" in document.body.dataset;
  if (event.altKey && event.key === "ArrowUp") press(line, "up");
  else if (event.altKey && event.key === "ArrowDown") press(line, "down");
  else if (event.altKey) return;
  else if ((event.key === "ArrowDown" || event.key === "ArrowUp") && !event.target.closest(".menu")) {
    const lines = all(".line");
    lines[lines.indexOf(line) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
  } else if (event.key === "Delete") press(line, "remove");
  else if (single && event.key === "s" && line.classList.contains("struck")) press(line, "apply");
  else if (single && event.key in pressed) press(line, pressed[event.key]);
  else if (event.key === "Enter" && event.target === line) $(".says-it", line).click();
  else return;
  event.preventDefault();
});

// The menu of a line opens at its button; the page has no other place for it.
document.addEventListener(
  "toggle",
  (event) => {
    const menu = event.target;
    if (!menu.matches?.(".menu") || event.newState !== "open") return;
    const button = $(`[popovertarget="${menu.id}"]`).getBoundingClientRect();
    const below = window.innerHeight - button.bottom > menu.offsetHeight + 8;
    // Not the menu's own style: htmx carries attributes over to the next answer, which the content policy forbids for style.
    const { style } = document.documentElement;
    style.setProperty("--menu-left", `${Math.max(4, Math.min(button.left, window.innerWidth - menu.offsetWidth - 4))}px`);
    style.setProperty("--menu-top", `${below ? button.bottom + 2 : Math.max(4, button.top - menu.offsetHeight - 2)}px`);
    $("button:not([disabled])", menu)?.focus();
  },
  true,
);
document.addEventListener("click", (event) => {
  const menu = event.target.closest(".menu");
  // Once the click has done its work: the focus leaves the button with it, and htmx forgets which was pressed.
  if (menu && event.target.closest("button")) setTimeout(() => menu.isConnected && menu.hidePopover());
});
