// Dialogs that buttons open, and the page's single-key shortcuts: an element with data-key is pressed or focused by its key.

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-opens]");
  if (opener) document.getElementById(opener.dataset.opens).showModal();
});

document.addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
  if (!("singleKeys" in document.body.dataset)) return;
  if (event.target.closest("input, textarea, select, dialog")) return;
  if (event.key === "?") {
    event.preventDefault();
    document.getElementById("keys")?.showModal();
    return;
  }
  const wanted = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (!wanted) return;
  event.preventDefault();
  if (wanted.matches("input, textarea")) wanted.focus();
  else wanted.click();
});
