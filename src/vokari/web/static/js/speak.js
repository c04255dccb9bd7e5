// The page of somebody who speaks a prompt: the recorder alone; once a take is kept the page says so.
import "./prompts/recorder.js";

document.addEventListener("recorded", () => location.reload());
