// The sheet of a flow: an opened row is kept as one leaves it, rows are moved with what hangs below them, and others' changes come in.
import "./sheet/keeping.js";
import "./sheet/moving.js";
import "./sheet/dragging.js";
import "./sheet/others.js";
import "./sheet/spoken.js";
