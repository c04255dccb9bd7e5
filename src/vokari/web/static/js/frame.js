// What every page does beyond links and forms.
import "./frame/zone.js";
import "./frame/find.js";
import "./frame/forms.js";
import "./frame/keys.js";
import "./frame/rows.js";
import "./frame/live.js";
import "./frame/fold.js";
