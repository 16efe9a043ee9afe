// Map: its library, loaded when a map is first looked at.

/** Load OpenLayers, once. */
export function loadLibrary(address) {
  if (window.ol) return Promise.resolve();
  return new Promise((resolve, reject) => {
    const script = document.createElement("script");
    script.src = address;
    script.onload = resolve;
    script.onerror = () => reject(new Error("The map’s library did not load; reload the page."));
    document.head.append(script);
  });
}
