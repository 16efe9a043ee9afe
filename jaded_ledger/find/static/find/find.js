// Find: all that its page does by itself.
import "./box.js";
import "./pending_acts.js";
import "./line_keys.js";
import "./line_dragging.js";
import "./undo.js";
import "./after_answer.js";
import "./editor.js";
import "./rows.js";
import "./columns.js";
import "./totals.js";
import "./faces.js";
import "./splitter.js";
import "./guide.js";
