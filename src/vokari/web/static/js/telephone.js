// The telephone: plays what the caller hears, in real time, and reports what the carrier would.

let sound = null;
let timer = 0;
let began = 0;
let shown = 0;
const tones = {};

function phone() { return document.getElementById("telephone"); }

function silence() {
  clearTimeout(timer);
  if (sound) { sound.onended = null; sound.pause(); sound = null; }
}

function report(fields) {
  const pad = document.getElementById("keypad");
  if (!pad || !window.htmx) return;
  const body = { after: phone().dataset.count, elapsed: elapsed(), ...fields };
  window.htmx.ajax("POST", pad.getAttribute("action"), { target: "#desk", swap: "outerHTML", values: body });
}

function elapsed() { return ((performance.now() - began) / 1000).toFixed(2); }

function wantsSound() { return document.getElementById("sound")?.checked; }

function heardHalf() {
  const seconds = Number(phone().dataset.seconds || 0);
  return phone().dataset.kind === "play" && seconds > 0 && (performance.now() - began) / 1000 >= seconds / 2 ? "1" : "";
}

function start() {
  const here = phone();
  if (!here || here.dataset.started) return;
  here.dataset.started = "1";
  const box = document.getElementById("sound");
  box.checked = sessionStorage.getItem("vokari-sound") !== "off";
  silence();
  began = performance.now();
  shown = here.querySelector(".phone-clock") ? here.querySelector(".phone-clock").textContent : "0:00";
  document.querySelector(".transcript-lines")?.scrollTo(0, 1e6);
  if (!wantsSound()) return;
  const { kind, command, audio, seconds, country } = here.dataset;
  if (kind === "play" && audio) {
    playOn(audio.split(" "), () => report({ what: "finished", command }));
  } else if (kind === "listen") {
    timer = setTimeout(() => report({ what: "silence", command }), Number(seconds) * 1000);
  } else if (kind === "ring") {
    sound = new Audio(`/tones/ringing-${country === "GB" ? "GB" : "US"}.wav`);
    sound.loop = true;
    sound.play().catch(() => {});
  } else if (kind === "hold" && command) {
    timer = setTimeout(() => report({ what: "timer", command }), Number(seconds) * 1000);
  } else if (kind === "record" && here.dataset.beep) {
    sound = new Audio("/tones/beep.wav");
    sound.play().catch(() => {});
  }
}

// Words into which something was filled come in parts, one after the other.
function playOn([first, ...rest], then) {
  sound = new Audio(first);
  sound.onended = () => (rest.length ? playOn(rest, then) : then());
  sound.play().catch(() => { document.getElementById("sound").checked = false; });
}

function keyTone(name) {
  tones[name] ||= new Audio(`/tones/${name}.wav`);
  tones[name].currentTime = 0;
  tones[name].play().catch(() => {});
}

document.addEventListener("click", (event) => {
  const key = event.target.closest?.(".key");
  if (!key) return;
  keyTone(key.dataset.tone);
  if (!wantsSound()) return;
  event.preventDefault();
  const half = heardHalf();
  silence();
  report({ what: "digit", key: key.value, heard_half: half });
});

document.addEventListener("keydown", (event) => {
  if (event.target.matches("input:not([type=checkbox]), textarea, select") || event.ctrlKey || event.metaKey || event.altKey) return;
  const key = document.querySelector(`.key[value="${CSS.escape(event.key)}"]`);
  if (key && !key.disabled) { event.preventDefault(); key.click(); }
});

document.addEventListener("change", (event) => {
  if (event.target.id !== "sound") return;
  sessionStorage.setItem("vokari-sound", event.target.checked ? "on" : "off");
  if (!event.target.checked) silence();
  else { delete phone().dataset.started; start(); }
});

document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.elt.closest?.("#telephone") && wantsSound()) event.detail.parameters.elapsed ||= elapsed();
});
document.addEventListener("htmx:beforeRequest", (event) => { if (event.detail.elt.closest?.("#telephone")) silence(); });
document.addEventListener("htmx:afterSwap", start);
setInterval(() => {
  const clock = document.getElementById("phone-clock");
  if (!clock || !phone().dataset.kind || !wantsSound()) return;
  const [minutes, seconds] = shown.split(":").map(Number);
  const now = minutes * 60 + seconds + (performance.now() - began) / 1000;
  clock.textContent = `${Math.floor(now / 60)}:${String(Math.floor(now % 60)).padStart(2, "0")}`;
}, 500);
start();
