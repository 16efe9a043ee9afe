// Find: acts on the ledger's lines by key, by menu and by dragging; acts that follow fast upon each other; undo and redo.
"use strict";

(() => {
  const $ = (selector, within = document) => within.querySelector(selector);
  const all = (selector, within = document) => [...within.querySelectorAll(selector)];

  // Keys on a line -------------------------------------------------------------------------------

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

  // Dragging: between lines to move one there, onto a line to be an alternative to it --------------

  let dragged = null;

  function act(value) {
    const button = document.createElement("button");
    button.name = "do";
    button.value = value;
    button.hidden = true;
    $("#acts").append(button);
    button.click();
    button.remove();
  }

  // Onto its middle it joins a line; nearer to an edge it goes before or after it.
  function target(event) {
    const line = event.target.closest?.(".line");
    if (!dragged || !line || line === dragged) return null;
    const { top, height } = line.getBoundingClientRect();
    const at = (event.clientY - top) / height;
    return { line, way: at < 0.3 ? "before" : at > 0.7 ? "after" : "onto" };
  }

  function unmark() {
    for (const line of all(".drop-before, .drop-after, .drop-onto")) line.classList.remove("drop-before", "drop-after", "drop-onto");
  }

  document.addEventListener("dragstart", (event) => {
    const grip = event.target.closest?.(".grip");
    if (!grip) return;
    dragged = grip.closest(".line");
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", $(".says-it", dragged).textContent.trim());
  });
  document.addEventListener("dragover", (event) => {
    unmark();
    const found = target(event);
    if (!found) return;
    event.preventDefault();
    found.line.classList.add(`drop-${found.way}`);
  });
  document.addEventListener("drop", (event) => {
    const found = target(event);
    if (!found) return;
    event.preventDefault();
    const mine = dragged.dataset.line;
    const other = found.line.dataset.line;
    if (found.way === "onto") act(`join:${mine}:${other}`);
    else if (found.way === "before") act(`move:${mine}:${other}`);
    else {
      const lines = all(".line");
      act(`move:${mine}:${lines[lines.indexOf(found.line) + 1]?.dataset.line ?? "end"}`);
    }
  });
  document.addEventListener("dragend", () => {
    unmark();
    dragged = null;
  });

  // Acts whose answer has not come ------------------------------------------------------------------

  // A newer act replaces the request of the one before, and is sent with it: lines are meant by the numbers on the page,
  // and the answer is of all acts together. While an editor's answer is under way, acts wait for it.
  let sent = [];
  let isEditing = false;
  let waiting = [];

  // Caught before htmx, which would let go of the request that is under way.
  document.addEventListener(
    "submit",
    (event) => {
      if (!isEditing || !event.target.matches("#acts, #add, #turn, #sorting")) return;
      event.preventDefault();
      event.stopPropagation();
      const { submitter, target } = event;
      if (target.matches("#acts, #add")) waiting.push(submitter?.name === "do" ? submitter.value : `add:${$("#typed").value}`);
    },
    true,
  );

  document.addEventListener("htmx:configRequest", (event) => {
    const { elt, parameters } = event.detail;
    if (elt.matches("#acts, #add")) {
      if (sent.length) parameters.before = [...sent];
      sent.push(parameters.do ?? `add:${parameters.typed ?? ""}`);
    } else if (elt.matches("#editor-form, #group-form, #text-form, #pasted-form, #asks, #turn, #sorting")) {
      if (sent.length) parameters.before = [...sent];
      isEditing = elt.matches("#editor-form, #group-form, #text-form, #pasted-form, #asks");
    } else if (elt.closest("#editor") && sent.length) {
      parameters.before = [...sent];
    }
  });

  function settle() {
    sent = [];
    isEditing = false;
    const doing = waiting;
    waiting = [];
    // After this answer's request is wholly over.
    setTimeout(() => doing.forEach(act));
  }

  document.addEventListener("htmx:afterRequest", (event) => {
    const { requestConfig, xhr, successful } = event.detail;
    // The form itself may have been swapped away by the answer.
    const elt = requestConfig.elt;
    if (!elt.matches("#acts, #add, #editor-form, #group-form, #text-form, #pasted-form, #asks, #turn, #sorting") || xhr.status === 0) return;
    // What was refused is taken back; what was sent with it is done all the same.
    const isRefused = successful && xhr.getResponseHeader("HX-Retarget") !== null;
    const others = isRefused && elt.matches("#acts, #add") ? sent.slice(0, -1) : [];
    waiting = [...others, ...waiting];
    settle();
  });

  // Undo and redo --------------------------------------------------------------------------------------

  // The searches of this window, as they were; another window has its own.
  const KEY = "find history";

  function story() {
    try {
      return JSON.parse(sessionStorage.getItem(KEY)) ?? { past: [], now: null, ahead: [] };
    } catch {
      return { past: [], now: null, ahead: [] };
    }
  }

  function note() {
    const book = $("#book");
    if (!book) return;
    const { search, state } = book.dataset;
    const told = story();
    if (told.now?.search === search) told.now.state = state;
    else if (told.past.at(-1)?.search === search && told.going === "back") {
      told.ahead.push(told.now);
      told.now = told.past.pop();
    } else if (told.ahead.at(-1)?.search === search && told.going === "ahead") {
      told.past.push(told.now);
      told.now = told.ahead.pop();
    } else {
      if (told.now) told.past = [...told.past, told.now].slice(-100);
      told.now = { search, state };
      told.ahead = [];
    }
    delete told.going;
    sessionStorage.setItem(KEY, JSON.stringify(told));
    const undo = $("#undo");
    if (!undo) return;
    undo.disabled = !told.past.length;
    $("#redo").disabled = !told.ahead.length;
  }

  function go(way) {
    const told = story();
    const wanted = (way === "back" ? told.past : told.ahead).at(-1);
    if (!wanted) return;
    sessionStorage.setItem(KEY, JSON.stringify({ ...told, going: way }));
    const address = wanted.state ? `/?${wanted.state}` : "/";
    htmx.ajax("GET", address, { target: "#book", swap: "outerHTML", source: "#book" });
  }

  document.addEventListener("click", (event) => {
    if (event.target.closest("#undo")) go("back");
    if (event.target.closest("#redo")) go("ahead");
  });
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.altKey || event.target.closest?.("input, textarea, select")) return;
    const key = event.key.toLowerCase();
    if (key === "z") go(event.shiftKey ? "ahead" : "back");
    else if (key === "y") go("ahead");
    else return;
    event.preventDefault();
  });

  // After an answer ------------------------------------------------------------------------------------

  let focusWanted = null;
  // The line whose act is under way, and how the line reads to which the hand has moved on since.
  let actedOn = null;
  let movedTo = null;

  const sentence = (line) => $(".sentence", line)?.textContent;

  document.addEventListener("submit", (event) => {
    if (!["acts", "add", "editor-form", "group-form", "text-form", "pasted-form", "asks"].includes(event.target.id)) return;
    const value = event.submitter?.value ?? "";
    actedOn = event.submitter?.closest(".line") ?? null;
    const number = value.match(/^(strike|apply|unknowns|turn|ask|copy|up|down|join):(\d+)$/);
    if (number) {
      const step = { up: -1, join: -1, down: 1, copy: 1 }[number[1]] ?? 0;
      focusWanted = `#line-${Number(number[2]) + step}`;
    } else {
      focusWanted = event.target.id === "text-form" ? null : "#typed";
    }
  });

  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.target.id !== "book") return;
    const line = document.activeElement?.closest(".line");
    movedTo = line && line !== actedOn ? sentence(line) : null;
  });

  document.addEventListener("htmx:load", (event) => {
    const loaded = event.target;
    const first = $("[autofocus]", loaded) ?? (loaded.id === "editor" ? $("input:not([type=hidden]), select, textarea", loaded) : null);
    // Whoever is already typing in what was loaded keeps the place.
    if (first && !loaded.matches("#book") && !loaded.contains(document.activeElement)) first.focus();
    if (loaded.id !== "book") return;
    // It may have another number now.
    const moved = movedTo && all(".line").find((line) => sentence(line) === movedTo);
    const wanted = moved || (focusWanted && $(focusWanted));
    focusWanted = actedOn = movedTo = null;
    wanted?.focus();
    if (wanted?.id === "typed") document.dispatchEvent(new Event("find:back-to-box"));
    note();
  });
  document.addEventListener("DOMContentLoaded", note);
  if (document.readyState !== "loading") note();

  document.addEventListener("htmx:responseError", (event) => {
    const { xhr } = event.detail;
    // What a page says of itself comes as a page; a text is meant for here.
    const isText = xhr.getResponseHeader("Content-Type")?.startsWith("text/plain");
    say(isText ? xhr.responseText : "The server could not answer. Nothing is lost; try again.");
  });
  document.addEventListener("htmx:sendError", () => {
    sent = [];
    isEditing = false;
    waiting = [];
    say("The server can’t be reached. The search is as it was; try again when it is back.");
  });

  function say(text) {
    const place = $("#add-wrong") ?? $("#text-wrong");
    if (!place) return;
    const line = document.createElement("p");
    line.className = "says wrong";
    line.textContent = text;
    place.replaceChildren(line);
  }
})();
