// Find: the way to a property and back, and the selection that outlives a page of rows.
import { $, all, fieldsOf } from "../web/dom.js";
import { focusAfter } from "./after_answer.js";
import { act } from "./pending_acts.js";

// From the rows to a property and back --------------------------------------------------------

// A row's link takes the search along when it is about to be followed: in every row of the page it would be most of what is sent.
function withSearch(event) {
  const link = event.target.closest?.(".rows .id a");
  if (!link || link.search.includes("&")) return;
  const { state } = $("#search").dataset;
  if (state) link.search = `?${state}&${link.search.slice(1)}`;
}
for (const kind of ["pointerdown", "focusin", "mouseover"]) document.addEventListener(kind, withSearch, { passive: true });

// The address keeps the row that was opened, so that the way back, by the browser's too, ends where it began.
document.addEventListener("click", (event) => {
  const link = event.target.closest(".rows .id a");
  if (link) history.replaceState(history.state, "", `#${link.id}`);
});

document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.(".rows .id a") || (event.key !== "ArrowDown" && event.key !== "ArrowUp")) return;
  const links = all(".rows .id a");
  links[links.findIndex((link) => link === event.target) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
  event.preventDefault();
});

function returnToRow() {
  const link = location.hash.startsWith("#parcel-") && document.getElementById(location.hash.slice(1));
  if (!link) return;
  link.scrollIntoView({ block: "center" });
  link.focus({ preventScroll: true });
}

returnToRow();

// An owner's row opens to the parcels beneath, and closes over them.
document.addEventListener("htmx:beforeRequest", (event) => {
  const opener = event.target.closest?.(".opens-owner");
  if (opener?.ariaExpanded !== "true") return;
  event.preventDefault();
  let row = opener.closest("tr").nextElementSibling;
  while (row && !row.matches(".of-owner")) {
    const next = row.nextElementSibling;
    row.remove();
    row = next;
  }
  opener.ariaExpanded = "false";
});
document.addEventListener("htmx:afterRequest", (event) => {
  const opener = event.target.closest?.(".opens-owner");
  if (!opener || !event.detail.successful) return;
  opener.ariaExpanded = "true";
  showSelection();
});

// The selection ----------------------------------------------------------------------------------

// Kept for this window and search. With all matches chosen, ids are those taken out again.
const keyOf = (search) => `chosen ${search.dataset.version} ${search.dataset.search}`;

/** Return what is chosen: ids, or with ``all`` every match but these. */
export function selection() {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf($("#search")))) ?? { all: false, ids: [] };
  } catch {
    return { all: false, ids: [] };
  }
}

function keep(chosen) {
  sessionStorage.setItem(keyOf($("#search")), JSON.stringify(chosen));
  showSelection();
  document.dispatchEvent(new Event("find:chosen"));
}

let asked = 0;

async function countOwners() {
  const mine = ++asked;
  const answer = await fetch($("#selection").dataset.counts, { method: "POST", body: fieldsOf("#selection") });
  if (!answer.ok || mine !== asked) return;
  const { owners } = await answer.json();
  const place = $("#chosen .mut");
  if (place) place.textContent = `of ${owners.toLocaleString("en-US")} ${owners === 1 ? "owner" : "owners"}`;
}

// A row of the table is a parcel, or an owner with several.
const idsOf = (row) => (row.dataset.parcels ?? row.dataset.parcel).split(",").map(Number);

function showSelection() {
  const form = $("#selection");
  if (!form) return;
  const search = $("#search");
  const chosen = selection();
  const ids = new Set(chosen.ids);
  for (const row of all(".rows tbody tr")) {
    const held = idsOf(row).filter((id) => chosen.all !== ids.has(id)).length;
    const is = held === idsOf(row).length;
    row.classList.toggle("sel", is);
    $("input", row).checked = is;
    $("input", row).indeterminate = !is && held > 0;
  }
  const ticks = all(".rows tbody input");
  const header = $("#tick-page");
  header.checked = ticks.length > 0 && ticks.every((tick) => tick.checked);
  header.indeterminate = !header.checked && ticks.some((tick) => tick.checked);
  const matches = Number(search.dataset.matches);
  const count = chosen.all ? matches - ids.size : ids.size;
  const bold = document.createElement("b");
  bold.textContent = count ? `${chosen.all && !ids.size ? "All " : ""}${count.toLocaleString("en-US")} chosen` : "None chosen";
  const owners = document.createElement("span");
  owners.className = "mut";
  const total = Number(search.dataset.owners);
  owners.textContent = chosen.all && !ids.size ? `of ${total.toLocaleString("en-US")} ${total === 1 ? "owner" : "owners"}` : "";
  $("#chosen").replaceChildren(bold, " ", owners);
  form.elements.ids.value = chosen.ids.join(",");
  form.elements.all.value = chosen.all ? "1" : "";
  for (const button of all('button[name="then"]', form)) button.disabled = count === 0;
  $("[data-takes-out]", form).disabled = chosen.all || count === 0;
  $('[data-choose="none"]', form).hidden = count === 0;
  asked += 1;
  if (count && !(chosen.all && !ids.size)) countOwners();
}

/** Choose parcels by their ids, or no longer. */
export function chooseParcels(parcels, on) {
  const chosen = selection();
  const ids = new Set(chosen.ids);
  for (const id of parcels) {
    if (on !== chosen.all) ids.add(id);
    else ids.delete(id);
  }
  keep({ all: chosen.all, ids: [...ids] });
}

const choose = (rows, on) => chooseParcels(rows.flatMap(idsOf), on);

document.addEventListener("change", (event) => {
  if (event.target.id === "tick-page") choose(all(".rows tbody tr"), event.target.checked);
  else if (event.target.closest(".rows tbody")) choose([event.target.closest("tr")], event.target.checked);
});

document.addEventListener("click", (event) => {
  const what = event.target.closest("[data-choose]")?.dataset.choose;
  if (event.target.closest("[data-takes-out]")) {
    const { ids } = selection();
    keep({ all: false, ids: [] });
    focusAfter("#tick-page");
    act(`take-out:${ids.join(",")}`);
  }
  if (what === "all") keep({ all: true, ids: [] });
  if (what === "none") keep({ all: false, ids: [] });
  if (what === "page") choose(all(".rows tbody tr"), true);
});

document.addEventListener("find:search", (event) => {
  if (event.target.id !== "face-table") return;
  // What was told of the search before is no longer so.
  const told = $("#explained [data-of-search]");
  if (told && "staysOpen" in told.dataset) htmx.trigger(told, "look-again");
  else told?.remove();
  showSelection();
  document.dispatchEvent(new Event("find:chosen"));
});
showSelection();

// Beside another face ----------------------------------------------------------------------------

// A click on a row, where it opens nothing, shows the parcel in the face beside.
document.addEventListener("click", ({ target }) => {
  const row = target.closest?.(".side-by-side .rows tbody tr[data-parcel]");
  if (!row || target.closest("a, button, input, label, summary")) return;
  row.dispatchEvent(new CustomEvent("find:row", { bubbles: true, detail: Number(row.dataset.parcel) }));
});

/** Show which row is that of a parcel that is looked at in the face beside. */
export function showRow(parcel) {
  for (const row of all(".rows tr.looked-at")) row.classList.remove("looked-at");
  const row = $(`.rows tr[data-parcel="${parcel}"]`);
  row?.classList.add("looked-at");
  row?.scrollIntoView({ block: "nearest" });
}
