"use strict";
const form = document.getElementById("script");
const trace = document.getElementById("trace");
let current = null;

// E.164 from the usual national forms of the US and the UK.
function e164(typed) {
  const digits = typed.replace(/[^+\d]/g, "");
  if (/^[2-9]\d{9}$/.test(digits)) return `+1${digits}`;
  return /^0\d{9,10}$/.test(digits) ? `+44${digits.slice(1)}` : digits;
}

function phones(text) {
  const found = {};
  for (const line of text.split("\n")) {
    const [number, behavior, after, talk] = line.trim().split(/\s+/);
    if (number) found[e164(number)] = { behavior: behavior || "answers", after: Number(after || 6), talk: Number(talk || 20) };
  }
  return found;
}

let player = null;
let heard = new Set();

// Plays what the caller hears as it comes; something new stops what was played.
function hear(ref, sounds) {
  const fresh = sounds.filter((one) => !heard.has(one));
  if (!fresh.length) return;
  for (const one of fresh) heard.add(one);
  player?.pause();
  const next = () => {
    const one = fresh.shift();
    if (one === undefined || current !== ref) return;
    player = new Audio(`/calls/${ref}/sounds/${one}.wav`);
    player.onended = next;
    player.play().catch(() => {});
  };
  next();
}

async function voice() {
  const file = document.getElementById("voice").files[0];
  if (!file) return null;
  const bytes = new Uint8Array(await file.arrayBuffer());
  return btoa(bytes.reduce((text, one) => text + String.fromCharCode(one), ""));
}

async function follow(ref) {
  heard = new Set();
  document.getElementById("whole").hidden = true;
  while (current === ref) {
    const answer = await fetch(`/calls/${ref}`);
    const call = await answer.json();
    trace.replaceChildren(...call.trace.map((one) => {
      const row = document.createElement("li");
      row.textContent = `${one.at.toFixed(1).padStart(6)} s  ${one.what}`;
      return row;
    }));
    if (form.elements.speed.value === "real") hear(ref, call.trace.findLast((one) => one.sounds?.length)?.sounds ?? []);
    if (call.over && form.elements.sound.checked) {
      document.querySelector("#whole audio").src = `/calls/${ref}/sound.wav`;
      document.getElementById("whole").hidden = false;
    }
    document.getElementById("keys").hidden = call.over;
    if (call.over) return tell();
    await new Promise((done) => setTimeout(done, 400));
  }
}

form.addEventListener("submit", async (event) => {
  event.preventDefault();
  const data = new FormData(form);
  const script = {
    to: e164(data.get("to")),
    press: (data.get("press").match(/[0-9*#]@[\d.]+/g) || []).map((one) => [Number(one.slice(2)), one[0]]),
    phones: phones(data.get("phones")),
    speed: data.get("speed"),
    sound: form.elements.sound.checked,
  };
  const recording = await voice();
  if (data.get("says").trim() || recording) script.message = { ...(data.get("says").trim() && { words: data.get("says") }), ...(recording && { recording }) };
  if (data.get("from").trim()) script.from = e164(data.get("from"));
  if (data.get("hangs").trim()) script.hangs_up = Number(data.get("hangs"));
  if (data.get("others")) script.other_phones = { behavior: data.get("others"), after: 5, talk: 20 };
  const answer = await fetch("/calls", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(script) });
  const placed = await answer.json();
  if (!answer.ok) {
    trace.textContent = "The call could not be placed: check the numbers (as in 410-555-0142), the keys (1@6) and the phones.";
    return;
  }
  current = placed.ref;
  follow(placed.ref);
});

for (const key of "123456789*0#") {
  const button = document.createElement("button");
  button.type = "button";
  button.textContent = key;
  button.addEventListener("click", () => fetch(`/calls/${current}/press?key=${encodeURIComponent(key)}`, { method: "POST" }));
  document.getElementById("pad").append(button);
}
document.getElementById("hang").addEventListener("click", () => fetch(`/calls/${current}/hang-up`, { method: "POST" }));

// Which calls a phone's own mailbox took: the carrier knows, the application does not.
async function tell() {
  const tally = await (await fetch("/calls/tally")).json();
  document.getElementById("tally").textContent = `${tally.answered} calls were answered so far, ${tally.by_a_mailbox} of them by a phone’s own mailbox.`;
}
tell();
