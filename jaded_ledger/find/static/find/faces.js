// Find: the faces of the results. One that was opened stays in the page; it learns of each new search by the event "find:search",
// whose detail is the search's text, its state as an address has it, the version of the facts, and how many match.
import { $, all } from "../web/dom.js";

const faces = $("#faces");
let shown = $(".face").dataset.face;
// The state and version that a face was last told, by its element.
const toldTo = new WeakMap();

/** Return the key of the face that is shown. */
export const faceShown = () => shown;

const sectionOf = (key) => $(`#face-${CSS.escape(key)}`);

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
  $("#state").elements.face.value = key;
  for (const face of all(".face", faces)) face.hidden = face.dataset.face !== key;
}

/** Keep something of how the user has Find laid out. */
export function keepLayout(values) {
  htmx.ajax("POST", faces.dataset.layout, { source: faces, swap: "none", values });
}

/** Draw a face that is in the page anew, of the same search. */
export async function redraw(key) {
  const address = `${faces.dataset.address}?${$("#search").dataset.state}`;
  const before = stamp(asked());
  await htmx.ajax("GET", address, { target: sectionOf(key), swap: "outerHTML", source: "#search", values: { face: key } });
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
  let face = sectionOf(key);
  if (!face || ("redrawn" in face.dataset && isBehind(face))) {
    const address = `${faces.dataset.address}?${$("#search").dataset.state}`;
    const place = face ? { target: face, swap: "outerHTML" } : { target: faces, swap: "beforeend" };
    const before = stamp(asked());
    await htmx.ajax("GET", address, { ...place, source: "#search", values: { face: key } });
    face = sectionOf(key);
    if (!face) return;
    // The search was edited meanwhile: what has come is of the one before.
    if ("redrawn" in face.dataset && stamp(asked()) !== before) {
      turnTo(key);
      return;
    }
  }
  show(key);
  if (isBehind(face)) tell(face);
  if (hadFocus) $("[data-turns-to][aria-current]", face)?.focus();
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
  tell(sectionOf(shown));
});
// The face that came with the page: by now its own script listens, and htmx knows what is in it.
document.addEventListener("htmx:load", () => tell(sectionOf(shown)), { once: true });
