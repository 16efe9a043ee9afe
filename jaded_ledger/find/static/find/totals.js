// Find: sums, medians and shares at the foot of the table, for all matches and for those that are chosen.
import { $, fieldsOf } from "../web/dom.js";

const KEPT = "totals at the foot";
let asked = 0;
let waits;

const isShown = () => localStorage.getItem(KEPT) === "yes";

async function fetchTotals() {
  const mine = ++asked;
  const button = $("#totals-shown");
  button?.setAttribute("aria-pressed", String(isShown()));
  if (!button || !isShown()) {
    $("#totals")?.remove();
    return;
  }
  const sent = fieldsOf("#selection");
  sent.set("room", String($("#faces").clientWidth));
  const answer = await fetch(button.dataset.address, { method: "POST", body: sent });
  // A newer question is under way: this answer is of rows that are gone.
  if (!answer.ok || mine !== asked) return;
  const template = document.createElement("template");
  template.innerHTML = await answer.text();
  $("#totals")?.remove();
  $(".rows").append(template.content);
}

function fetchSoon() {
  clearTimeout(waits);
  waits = setTimeout(fetchTotals, 150);
}

document.addEventListener("click", (event) => {
  if (!event.target.closest("#totals-shown")) return;
  localStorage.setItem(KEPT, isShown() ? "no" : "yes");
  fetchTotals();
});
document.addEventListener("find:chosen", fetchSoon);
document.addEventListener("find:search", (event) => {
  if (event.target.id === "face-table") fetchSoon();
});
fetchSoon();
