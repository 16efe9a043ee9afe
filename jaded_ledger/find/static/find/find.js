// Find: choosing suggestions, keys on a line, and the selection that outlives a page of rows.
"use strict";

(() => {
  const $ = (selector, within = document) => within.querySelector(selector);
  const all = (selector, within = document) => [...within.querySelectorAll(selector)];

  // The add box ------------------------------------------------------------------------------

  let closedByHand = false;

  const offered = () => all("#suggestions .sug");
  const marked = () => $('#suggestions .sug[aria-selected="true"]');

  function openBox(open) {
    const box = $("#suggestions");
    if (!box) return;
    box.hidden = !open;
    if (open) {
      // As tall as there is room, below the field or above it.
      const field = $("#typed").getBoundingClientRect();
      const below = window.innerHeight - field.bottom - 60;
      const above = field.top - 60;
      box.classList.toggle("above", below < 240 && above > below);
      document.documentElement.style.setProperty("--room", `${Math.max(140, Math.min(430, Math.max(below, below < 240 ? above : 0)))}px`);
    }
    $("#typed").setAttribute("aria-expanded", String(open));
    if (!open) mark(null);
  }

  function mark(option) {
    marked()?.setAttribute("aria-selected", "false");
    const typed = $("#typed");
    if (!option) {
      typed?.removeAttribute("aria-activedescendant");
      return;
    }
    option.setAttribute("aria-selected", "true");
    option.scrollIntoView({ block: "nearest" });
    typed.setAttribute("aria-activedescendant", option.id);
  }

  function inBox(event) {
    const options = offered();
    const at = options.indexOf(marked());
    const box = $("#suggestions");
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      if (!options.length) return event.target.click();
      if (box.hidden) openBox(true);
      const step = event.key === "ArrowDown" ? 1 : -1;
      mark(options[at < 0 && step < 0 ? options.length - 1 : (at + step + options.length) % options.length]);
    } else if (event.key === "Enter") {
      // The answer for what is typed may still be under way: only a marked option, or the text itself, is taken.
      if (marked()) {
        event.preventDefault();
        marked().click();
      } else if (!event.target.value.trim()) {
        event.preventDefault();
      } else if (!event.target.value.includes(":") && options.length && event.target.value.trim() === box.dataset.typed) {
        event.preventDefault();
        options[0].click();
      }
    } else if (event.key === "Escape") {
      event.preventDefault();
      if (box.hidden) event.target.blur();
      closedByHand = true;
      openBox(false);
    } else if (event.key === "Tab") {
      openBox(false);
    }
  }

  document.addEventListener("keydown", (event) => {
    if (event.target.id === "typed") inBox(event);
  });
  document.addEventListener("input", (event) => {
    if (event.target.id !== "typed") return;
    closedByHand = false;
    mark(null);
  });
  document.addEventListener("focusin", (event) => {
    if (event.target.id === "typed") closedByHand = false;
    else if (!event.target.closest("#add")) openBox(false);
  });
  document.addEventListener("mousedown", (event) => {
    if (!event.target.closest("#add")) openBox(false);
    else if (event.target.id === "typed") closedByHand = false;
    // The box must not close under the pointer before the click is done.
    if (event.target.closest(".sug")) event.preventDefault();
  });

  // Lines --------------------------------------------------------------------------------------

  function press(line, verb) {
    line.querySelector(`.tools button[value^="${verb}:"]:not([disabled])`)?.click();
  }

  document.addEventListener("keydown", (event) => {
    const line = event.target.closest?.(".line");
    if (!line || event.target.closest("input, select, textarea")) return;
    const single = "singleKeys" in document.body.dataset;
    if (event.altKey && event.key === "ArrowUp") press(line, "up");
    else if (event.altKey && event.key === "ArrowDown") press(line, "down");
    else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      const lines = all(".line");
      lines[lines.indexOf(line) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
    } else if (event.key === "Delete") press(line, "remove");
    else if (single && event.key === "s") press(line, line.classList.contains("struck") ? "apply" : "strike");
    else if (event.key === "Enter" && event.target === line) $(".says-it", line).click();
    else return;
    event.preventDefault();
  });

  document.addEventListener("click", (event) => {
    const closer = event.target.closest("[data-closes-editor]");
    if (closer) closeEditor();
  });

  function closeEditor() {
    const editor = $("#editor");
    const line = editor?.previousElementSibling;
    editor?.remove();
    (line?.matches(".line") ? line : $("#typed"))?.focus();
  }

  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && event.target.closest("#editor")) closeEditor();
  });

  document.addEventListener("htmx:beforeRequest", (event) => {
    // Only one editor at a time.
    if (event.target.matches(".says-it, .sug, [data-adds-group]")) $("#editor")?.remove();
  });

  // After an answer ------------------------------------------------------------------------------

  let focusWanted = null;

  document.addEventListener("submit", (event) => {
    if (!["acts", "add", "editor-form", "group-form", "text-form"].includes(event.target.id)) return;
    const value = event.submitter?.value ?? "";
    const number = value.match(/^(strike|apply|unknowns|up|down):(\d+)$/);
    if (number) {
      const step = { up: -1, down: 1 }[number[1]] ?? 0;
      focusWanted = `#line-${Number(number[2]) + step}`;
    } else {
      focusWanted = event.target.id === "text-form" ? null : "#typed";
    }
  });

  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id === "suggestions") {
      const typed = $("#typed");
      // What the answer is for, which may be less than what stands in the field by now.
      const asked = new URL(event.detail.pathInfo.finalRequestPath, location.href).searchParams.get("typed") ?? "";
      event.target.dataset.typed = asked.trim();
      if (document.activeElement === typed && !closedByHand) openBox(true);
    }
  });

  document.addEventListener("htmx:load", (event) => {
    const loaded = event.target;
    const first = $("[autofocus]", loaded) ?? (loaded.id === "editor" ? $("input, select, textarea", loaded) : null);
    if (loaded.matches("#editor, tr.editor") || loaded.querySelector?.("#editor")) openBox(false);
    // Whoever is already typing in what was loaded keeps the place.
    if (first && !loaded.matches("#book") && !loaded.contains(document.activeElement)) first.focus();
    if (loaded.id === "book") {
      const wanted = focusWanted && $(focusWanted);
      focusWanted = null;
      if (wanted) {
        // The box stays shut until something is typed, so that the answer can be read.
        wanted.focus();
        if (wanted.id === "typed") {
          closedByHand = true;
          openBox(false);
        }
      }
      showSelection();
    }
  });

  document.addEventListener("htmx:responseError", () => say("The server could not answer. Nothing is lost; try again."));
  document.addEventListener("htmx:sendError", () => say("The server can’t be reached. Nothing is lost; try again when it is back."));

  function say(text) {
    const place = $("#add-wrong") ?? $("#text-wrong");
    if (!place) return;
    const line = document.createElement("p");
    line.className = "says wrong";
    line.textContent = text;
    place.replaceChildren(line);
  }

  // From the rows to a property and back --------------------------------------------------------

  // The address keeps the row that was opened, so that the way back, by the browser's too, ends where it began.
  document.addEventListener("click", (event) => {
    const link = event.target.closest(".rows .id a");
    if (link) history.replaceState(history.state, "", `#${link.id}`);
  });

  document.addEventListener("keydown", (event) => {
    if (!event.target.matches?.(".rows .id a") || (event.key !== "ArrowDown" && event.key !== "ArrowUp")) return;
    const links = all(".rows .id a");
    links[links.indexOf(event.target) + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
    event.preventDefault();
  });

  function returnToRow() {
    const link = location.hash.startsWith("#parcel-") && document.getElementById(location.hash.slice(1));
    if (!link) return;
    link.scrollIntoView({ block: "center" });
    link.focus({ preventScroll: true });
  }

  document.addEventListener("DOMContentLoaded", returnToRow);
  if (document.readyState !== "loading") returnToRow();

  // The selection ----------------------------------------------------------------------------------

  // Kept for this window and search. With all matches chosen, ids are those taken out again.
  const keyOf = (book) => `chosen ${book.dataset.version} ${book.dataset.search}`;

  function selection() {
    const book = $("#book");
    try {
      return JSON.parse(sessionStorage.getItem(keyOf(book))) ?? { all: false, ids: [] };
    } catch {
      return { all: false, ids: [] };
    }
  }

  function keep(chosen) {
    sessionStorage.setItem(keyOf($("#book")), JSON.stringify(chosen));
    showSelection();
  }

  let asked = 0;

  async function countOwners() {
    const mine = ++asked;
    const answer = await fetch("/find/chosen", { method: "POST", body: new FormData($("#selection")) });
    if (!answer.ok || mine !== asked) return;
    const { owners } = await answer.json();
    const place = $("#chosen .mut");
    if (place) place.textContent = `of ${owners.toLocaleString("en-US")} ${owners === 1 ? "owner" : "owners"}`;
  }

  function showSelection() {
    const form = $("#selection");
    if (!form) return;
    const book = $("#book");
    const chosen = selection();
    const ids = new Set(chosen.ids);
    for (const row of all(".rows tbody tr")) {
      const is = chosen.all !== ids.has(Number(row.dataset.parcel));
      row.classList.toggle("sel", is);
      $("input", row).checked = is;
    }
    const ticks = all(".rows tbody input");
    const header = $("#tick-page");
    header.checked = ticks.length > 0 && ticks.every((tick) => tick.checked);
    header.indeterminate = !header.checked && ticks.some((tick) => tick.checked);
    const matches = Number(book.dataset.matches);
    const count = chosen.all ? matches - ids.size : ids.size;
    const bold = document.createElement("b");
    bold.textContent = count ? `${chosen.all && !ids.size ? "All " : ""}${count.toLocaleString("en-US")} chosen` : "None chosen";
    const owners = document.createElement("span");
    owners.className = "mut";
    const total = Number(book.dataset.owners);
    owners.textContent = chosen.all && !ids.size ? `of ${total.toLocaleString("en-US")} ${total === 1 ? "owner" : "owners"}` : "";
    $("#chosen").replaceChildren(bold, " ", owners);
    form.elements.ids.value = chosen.ids.join(",");
    form.elements.all.value = chosen.all ? "1" : "";
    for (const button of all('button[name="then"]', form)) button.disabled = count === 0;
    $('[data-choose="none"]', form).hidden = count === 0;
    asked += 1;
    if (count && !(chosen.all && !ids.size)) countOwners();
  }

  function choose(rows, on) {
    const chosen = selection();
    const ids = new Set(chosen.ids);
    for (const row of rows) {
      if (on !== chosen.all) ids.add(Number(row.dataset.parcel));
      else ids.delete(Number(row.dataset.parcel));
    }
    keep({ all: chosen.all, ids: [...ids] });
  }

  document.addEventListener("change", (event) => {
    if (event.target.id === "tick-page") choose(all(".rows tbody tr"), event.target.checked);
    else if (event.target.closest(".rows tbody")) choose([event.target.closest("tr")], event.target.checked);
  });

  document.addEventListener("click", (event) => {
    const what = event.target.closest("[data-choose]")?.dataset.choose;
    if (what === "all") keep({ all: true, ids: [] });
    if (what === "none") keep({ all: false, ids: [] });
    if (what === "page") choose(all(".rows tbody tr"), true);
  });

  document.addEventListener("DOMContentLoaded", showSelection);
  if (document.readyState !== "loading") showSelection();
})();
