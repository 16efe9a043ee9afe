// A mailing that was just created: its file is downloaded once, and not again when the page is reloaded or come back to.
import { $ } from "../web/dom.js";

const [{ type }] = performance.getEntriesByType("navigation");
if (type === "navigate") $("[data-starts]")?.click();
