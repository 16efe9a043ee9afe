// Find: the faces of the results, one of them or two side by side. One that was opened stays in the page; it learns of each new search
// by the event "find:search", whose detail is the search's text, its state as an address has it, the version of the facts, and how
// many match.
import { $, all } from "../web/dom.js";

const faces = $("#faces");
let shown = faces.dataset.shown;
// The state and version that a face was last told, by its element.
const toldTo = new WeakMap();

/** Return the key of the face that is shown. */
export const faceShown = () => shown;

const sectionOf = (key) => $(`#face-${CSS.escape(key)}`);

// A face shows itself, or others side by side.
const partsOf = (key) => $(`[data-turns-to="${CSS.escape(key)}"]`)?.dataset.beside?.split(" ") ?? [key];
const partsShown = () => partsOf(shown).map(sectionOf).filter(Boolean);

/** Return the search that the page shows: its text, its state, the version of the facts, and how many match. */
export function asked() {
  const { search, state, version, matches, owners } = $("#search").dataset;
  return { search, state, version, matches: Number(matches), owners: Number(owners) };
}

const stamp = ({ state, version }) => `${version} ${state}`;

function tell(face) {
  const now = asked();
  toldTo.set(face, stamp(now));
  face.dispatchEvent(new CustomEvent("find:search", { bubbles: true, detail: now }));
}

const isBehind = (face) => toldTo.get(face) !== stamp(asked());

function show(key) {
  shown = key;
  // The buttons of faces are elements of this form, too.
  $("#state input[name=face]").value = key;
  const parts = partsOf(key);
  faces.classList.toggle("side-by-side", parts.length > 1);
  for (const face of all(".face", faces)) {
    face.hidden = !parts.includes(face.dataset.face);
    face.dataset.place = String(parts.indexOf(face.dataset.face));
    // One bar of faces is enough.
    const bar = $(".faces", face);
    if (bar) bar.hidden = face.dataset.face !== parts[0];
  }
  for (const button of all("[data-turns-to]", faces)) {
    if (button.dataset.turnsTo === key) button.setAttribute("aria-current", "true");
    else button.removeAttribute("aria-current");
  }
}

/** Keep something of how the user has Find laid out. */
export function keepLayout(values) {
  htmx.ajax("POST", faces.dataset.layout, { source: faces, swap: "none", values });
}

// htmx answers a second request of one element before it has come: the faces are fetched one after the other.
let fetching = Promise.resolve();
function fetchFace(key) {
  const next = () => fetchNow(key);
  fetching = fetching.then(next, next);
  return fetching;
}

async function fetchNow(key) {
  const address = `${faces.dataset.address}?${$("#search").dataset.state}`;
  const face = sectionOf(key);
  const place = face ? { target: face, swap: "outerHTML" } : { target: faces, swap: "beforeend" };
  await htmx.ajax("GET", address, { ...place, source: "#search", values: { face: key } });
}

/** Draw a face that is in the page anew, of the same search. */
export async function redraw(key) {
  const before = stamp(asked());
  await fetchFace(key);
  if (stamp(asked()) !== before) {
    redraw(key);
    return;
  }
  show(shown);
  tell(sectionOf(key));
}

async function turnTo(key) {
  const hadFocus = Boolean(document.activeElement?.closest("[data-turns-to]"));
  keepLayout({ face: key });
  for (const part of partsOf(key)) {
    const face = sectionOf(part);
    if (face && !("redrawn" in face.dataset && isBehind(face))) continue;
    const before = stamp(asked());
    await fetchFace(part);
    if (!sectionOf(part)) return;
    // The search was edited meanwhile: what has come is of the one before.
    if ("redrawn" in sectionOf(part).dataset && stamp(asked()) !== before) {
      turnTo(key);
      return;
    }
  }
  show(key);
  for (const face of partsShown()) {
    // What stands beside another has less room than alone.
    if (isBehind(face)) tell(face);
    else face.dispatchEvent(new CustomEvent("find:room", { bubbles: true }));
  }
  if (hadFocus) $(".face:not([hidden]) .faces:not([hidden]) [aria-current]", faces)?.focus();
}

document.addEventListener("click", (event) => {
  const key = event.target.closest("[data-turns-to]")?.dataset.turnsTo;
  if (!key) return;
  event.preventDefault();
  if (key !== shown) turnTo(key);
});

// An answer has come: it may be for a face that was turned away from meanwhile.
document.addEventListener("htmx:load", (event) => {
  if (event.target.id !== "search") return;
  show(shown);
  partsShown().forEach(tell);
});
show(shown);
// The faces that came with the page: by now their own scripts listen, and htmx knows what is in them.
document.addEventListener("htmx:load", () => partsShown().forEach(tell), { once: true });
