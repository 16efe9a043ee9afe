// A token against forged requests belongs into no address: addresses are kept in histories and logs, and reading needs none.
document.addEventListener("htmx:configRequest", ({ detail }) => {
  if (detail.verb === "get") detail.formData.delete("csrfmiddlewaretoken");
});
