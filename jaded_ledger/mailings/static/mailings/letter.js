// A field is put where the caret stands, and the preview follows.
const text = document.querySelector("#text");
for (const button of document.querySelectorAll("[data-field]")) {
  button.addEventListener("click", () => {
    text.setRangeText(`{${button.dataset.field}}`, text.selectionStart, text.selectionEnd, "end");
    text.focus();
    text.dispatchEvent(new Event("input", { bubbles: true }));
  });
}
