// Pages of prompts: players, words heard before they are kept, the recorder, files that are brought.
import "./prompts/player.js";
import "./prompts/hearing.js";
import "./prompts/recorder.js";
import "./prompts/bringing.js";
