// Dialogs that buttons open; the page's single-key shortcuts (an element with data-key is pressed or focused by its key); and undo.

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-opens]");
  if (opener) document.getElementById(opener.dataset.opens).showModal();
});

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
  if (!("singleKeys" in document.body.dataset)) return;
  // A box that chooses a row takes no text: the next key is meant for the page.
  if (event.target.closest("input, textarea, select, dialog") && !event.target.matches(".rows [type=checkbox]")) return;
  if (event.key === "?") {
    event.preventDefault();
    document.getElementById("keys")?.showModal();
    return;
  }
  const wanted = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (!wanted) return;
  event.preventDefault();
  if (wanted.matches("input, textarea, select")) wanted.focus();
  else wanted.click();
});

// Ctrl Z presses the page's undo, wherever the focus is. Where something was typed, the browser undoes that.
const isTypedIn = (field) => field?.matches?.("input, textarea") && !field.matches("[type=checkbox], [type=radio]") && field.value !== field.defaultValue;

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.altKey || !(event.ctrlKey || event.metaKey) || isTypedIn(event.target)) return;
  const key = event.key.toLowerCase();
  const name = key === "y" || (key === "z" && event.shiftKey) ? "redo" : key === "z" ? "undo" : null;
  const button = name && document.querySelector(`[data-${name}]`);
  if (!button) return;
  event.preventDefault();
  button.click();
});
