// Find: acts that follow fast upon each other, before the answers have come.
import { $ } from "../web/dom.js";

/**
 * Return whether a form asks something of the search in one of these ways: "act" does something to its lines, "edit" answers an editor,
 * "turn" leads to other rows.
 */
export const isOf = (element, ...ways) => ways.includes(element.dataset?.request);

/** Do an act of the ledger, as the button of it does. */
export function act(value) {
  const button = document.createElement("button");
  button.name = "do";
  button.value = value;
  button.hidden = true;
  $("#acts").append(button);
  button.click();
  button.remove();
}

// A newer act replaces the request of the one before, and is sent with it: lines are meant by the numbers on the page,
// and the answer is of all acts together. While an editor's answer is under way, acts wait for it.
let sent = [];
let isEditing = false;
let waiting = [];

// Caught before htmx, which would let go of the request that is under way.
document.addEventListener(
  "submit",
  (event) => {
    if (!isEditing || !isOf(event.target, "act", "turn")) return;
    event.preventDefault();
    event.stopPropagation();
    const { submitter, target } = event;
    if (!isOf(target, "act")) return;
    waiting.push(submitter?.name === "do" ? submitter.value : `take:${$("#typed").value}`);
    if (target.id === "add") $("#typed").value = "";
  },
  true,
);

document.addEventListener("htmx:configRequest", (event) => {
  const { elt, parameters } = event.detail;
  if (isOf(elt, "act")) {
    if (sent.length) parameters.before = [...sent];
    sent.push(parameters.do ?? `take:${parameters.typed ?? ""}`);
  } else if (isOf(elt, "edit", "turn")) {
    if (sent.length) parameters.before = [...sent];
    isEditing = isOf(elt, "edit");
  } else if (elt.closest("#editor") && sent.length) {
    parameters.before = [...sent];
  }
});

// What was refused is taken back into the box, if it came from there; what was sent with it is done all the same.
function takeBack(refused) {
  const typed = sent[refused]?.match(/^take:(.*)$/s);
  waiting = [...sent.filter((_, number) => number !== refused), ...waiting];
  if (typed && !$("#typed").value) $("#typed").value = typed[1];
}

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
  if (!isOf(elt, "act", "edit", "turn") || xhr.status === 0) return;
  const refused = successful && isOf(elt, "act") ? xhr.getResponseHeader("Refused-Act") : null;
  if (refused !== null) takeBack(Number(refused));
  settle();
});

/** Forget the acts that wait: the server is out of reach. */
export function forgetActs() {
  sent = [];
  isEditing = false;
  waiting = [];
}
