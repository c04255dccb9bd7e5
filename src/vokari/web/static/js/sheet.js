// The sheet of a flow: an opened row is kept as one leaves it, rows are moved with what hangs below them, others' changes come in, and so does the proof.
import "./sheet/keeping.js";
import "./sheet/moving.js";
import "./sheet/dragging.js";
import "./sheet/others.js";
import "./sheet/proof.js";
import "./sheet/pane.js";
import "./sheet/spoken.js";
