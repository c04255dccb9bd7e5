// Players: one sound at a time, started by its button; a waveform is a slider that works by keyboard.

let sound = null;
let button = null;

function token() { return document.querySelector("input[name=form_token]")?.value ?? ""; }

export function post(address, fields) {
  const body = fields instanceof FormData ? fields : new URLSearchParams(fields);
  return fetch(address, { method: "POST", body, headers: { Accept: "application/json", "X-Form-Token": token() } });
}

export function silence() {
  if (sound) { sound.pause(); sound = null; }
  if (button) { button.setAttribute("aria-pressed", "false"); show(button, 0); button = null; }
}

function show(of, share) {
  const wave = of.closest("[data-player]")?.querySelector(".wave");
  if (!wave) return;
  wave.querySelector(".wave-played").setAttribute("width", String(share * 100));
  const whole = Number(wave.getAttribute("aria-valuemax"));
  wave.setAttribute("aria-valuenow", (share * whole).toFixed(1));
  wave.setAttribute("aria-valuetext", `${(share * whole).toFixed(1)} of ${whole.toFixed(1)} seconds`);
}

// Plays sounds one after the other; the button shows that they are played, and stops them.
export function play(of, addresses, at = 0) {
  silence();
  button = of;
  button.setAttribute("aria-pressed", "true");
  next([...addresses], at);
}

function next(waiting, at) {
  const address = waiting.shift();
  if (!address) { noteHeard(button); silence(); return; }
  const mine = sound = new Audio(address);
  mine.addEventListener("loadedmetadata", () => {
    const wave = button?.closest("[data-player]")?.querySelector(".wave");
    if (wave && !Number(wave.getAttribute("aria-valuemax"))) wave.setAttribute("aria-valuemax", mine.duration.toFixed(1));
    if (at) mine.currentTime = at * mine.duration;
  });
  mine.addEventListener("timeupdate", () => { if (sound === mine && button) show(button, mine.currentTime / (mine.duration || 1)); });
  mine.addEventListener("ended", () => { if (sound === mine) next(waiting, 0); });
  mine.play().catch(() => silence());
}

function noteHeard(of) {
  if (!of?.dataset.heard) return;
  post(of.dataset.heard, {});
  delete of.dataset.heard;
  of.closest("article")?.querySelector(".take-head .wants")?.remove();
}

document.addEventListener("click", (event) => {
  const pressed = event.target.closest?.("[data-plays]");
  if (pressed) {
    if (pressed === button) silence(); else play(pressed, [pressed.dataset.plays]);
    return;
  }
  const wave = event.target.closest?.(".wave");
  if (!wave) return;
  const box = wave.getBoundingClientRect();
  play(wave.closest("[data-player]").querySelector("[data-plays]"), [source(wave)], (event.clientX - box.left) / box.width);
});

function source(wave) { return wave.closest("[data-player]").querySelector("[data-plays]").dataset.plays; }

document.addEventListener("keydown", (event) => {
  const wave = event.target.closest?.(".wave");
  if (!wave) return;
  const whole = Number(wave.getAttribute("aria-valuemax")) || 1;
  const now = Number(wave.getAttribute("aria-valuenow"));
  const to = { ArrowRight: now + 1, ArrowLeft: now - 1, Home: 0, End: whole - 0.5 }[event.key];
  const playing = button && button.closest("[data-player]") === wave.closest("[data-player]");
  if (to !== undefined) {
    event.preventDefault();
    const share = Math.min(Math.max(to / whole, 0), 1);
    if (playing && sound) sound.currentTime = share * sound.duration;
    else play(wave.closest("[data-player]").querySelector("[data-plays]"), [source(wave)], share);
  } else if (event.key === " " || event.key === "Enter") {
    event.preventDefault();
    if (playing) silence(); else play(wave.closest("[data-player]").querySelector("[data-plays]"), [source(wave)]);
  }
});

// Waveforms of words that a voice reads are asked for when the page is there.
export function path(points) { return points.map((one, at) => `M${at}.5 ${50 - one / 2}v${Math.max(one, 1)}`).join(""); }

async function shapes() {
  for (const wave of document.querySelectorAll(".wave[data-shape]")) {
    const answer = await fetch(wave.dataset.shape);
    wave.removeAttribute("data-shape");
    if (!answer.ok) continue;
    const { points } = await answer.json();
    const picture = wave.querySelector(".wave-shape");
    picture.setAttribute("viewBox", `0 0 ${points.length || 1} 100`);
    picture.querySelector("path").setAttribute("d", path(points));
  }
}
shapes();
