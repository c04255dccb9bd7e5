// The recorder: microphone, level, stop, listen, trim both ends, take again, keep.
import { path, post, silence } from "./player.js";
import { follow } from "./bringing.js";

const TYPES = ["audio/webm;codecs=opus", "audio/ogg;codecs=opus", "audio/mp4"];
const LONGEST = 600;

class Recorder {
  constructor(place) {
    this.place = place;
    this.buttons = Object.fromEntries([...place.querySelectorAll("[data-do]")].map((one) => [one.dataset.do, one]));
    this.says = place.querySelector(".recorder-says");
    this.meter = place.querySelector("meter");
    this.trims = Object.fromEntries([...place.querySelectorAll("[data-trim]")].map((one) => [one.dataset.trim, one]));
    for (const [name, one] of Object.entries(this.buttons)) one.addEventListener("click", () => this[name]());
    for (const one of Object.values(this.trims)) one.addEventListener("input", () => this.trimmed(one));
    this.show("record");
  }

  show(...names) {
    for (const [name, one] of Object.entries(this.buttons)) one.hidden = !names.includes(name);
    const focused = names[0] && this.place.contains(document.activeElement);
    if (focused) this.buttons[names[0]].focus();
  }

  tell(words, wrong = false) {
    this.says.textContent = words;
    this.says.classList.toggle("wrong", wrong);
  }

  async record() {
    silence();
    this.tell("");
    if (!navigator.mediaDevices?.getUserMedia || !window.MediaRecorder) {
      this.tell("This browser gives no microphone here. Upload a file, or record by telephone.", true);
      return;
    }
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({ audio: { channelCount: 1, echoCancellation: false, noiseSuppression: true } });
    } catch (error) {
      this.tell(error.name === "NotAllowedError" || error.name === "SecurityError"
        ? "The microphone was refused. Allow it in the browser’s settings for this page, or record by telephone."
        : "No microphone was found. Plug one in, upload a file, or record by telephone.", true);
      return;
    }
    const type = TYPES.find((one) => MediaRecorder.isTypeSupported(one));
    this.recorder = new MediaRecorder(this.stream, type ? { mimeType: type } : {});
    this.pieces = [];
    this.recorder.ondataavailable = (event) => { if (event.data.size) this.pieces.push(event.data); };
    this.recorder.onstop = () => this.stopped();
    this.recorder.start();
    this.began = performance.now();
    this.place.querySelector(".recorder-trim").hidden = true;
    this.place.querySelector(".recorder-level").hidden = false;
    this.show("stop");
    this.watch();
  }

  watch() {
    const context = this.context ??= new AudioContext();
    const listener = context.createAnalyser();
    listener.fftSize = 1024;
    context.createMediaStreamSource(this.stream).connect(listener);
    const samples = new Float32Array(listener.fftSize);
    const look = () => {
      if (this.recorder.state !== "recording") return;
      listener.getFloatTimeDomainData(samples);
      const top = samples.reduce((most, one) => Math.max(most, Math.abs(one)), 0);
      const level = Math.max(0, 100 + 20 * Math.log10(Math.max(top, 1e-5)) * 2);
      this.meter.value = level;
      this.meter.textContent = `${Math.round(level)} of 100`;
      const seconds = (performance.now() - this.began) / 1000;
      this.place.querySelector(".recorder-time").textContent = time(seconds);
      if (seconds >= LONGEST) this.stop(); else setTimeout(look, 60);
    };
    look();
  }

  stop() { if (this.recorder?.state === "recording") this.recorder.stop(); }

  async stopped() {
    for (const track of this.stream.getTracks()) track.stop();
    this.place.querySelector(".recorder-level").hidden = true;
    this.blob = new Blob(this.pieces, { type: this.recorder.mimeType });
    try {
      this.buffer = await this.context.decodeAudioData(await this.blob.arrayBuffer());
    } catch {
      this.tell("Nothing was recorded. Take it again.", true);
      this.show("record");
      return;
    }
    this.trims.begins.value = 0;
    this.trims.ends.value = 1000;
    this.place.querySelector(".recorder-trim").hidden = false;
    this.place.querySelector(".recorder-shape path").setAttribute("d", path(points(this.buffer.getChannelData(0))));
    this.trimmed();
    this.show("listen", "again", "keep");
  }

  trimmed(moved) {
    const { begins, ends } = this.trims;
    if (Number(begins.value) > Number(ends.value) - 20) {
      if (moved === begins) begins.value = Number(ends.value) - 20; else ends.value = Number(begins.value) + 20;
    }
    const [left, right] = this.place.querySelectorAll(".cut");
    left.setAttribute("width", String(Number(begins.value) * 0.24));
    right.setAttribute("x", String(Number(ends.value) * 0.24));
    right.setAttribute("width", String(240 - Number(ends.value) * 0.24));
    begins.setAttribute("aria-valuetext", `${this.at("begins").toFixed(1)} seconds`);
    ends.setAttribute("aria-valuetext", `${this.at("ends").toFixed(1)} seconds`);
    this.place.querySelector(".recorder-time").textContent = time(this.at("ends") - this.at("begins"));
  }

  at(which) { return Number(this.trims[which].value) / 1000 * this.buffer.duration; }

  listen() {
    silence();
    this.playing?.stop();
    this.playing = this.context.createBufferSource();
    this.playing.buffer = this.buffer;
    this.playing.connect(this.context.destination);
    this.playing.start(0, this.at("begins"), this.at("ends") - this.at("begins"));
  }

  again() {
    this.playing?.stop();
    this.record();
  }

  async keep() {
    this.playing?.stop();
    const form = new FormData();
    const ending = this.blob.type.includes("ogg") ? "ogg" : this.blob.type.includes("mp4") ? "m4a" : "webm";
    form.set("file", this.blob, `recorded.${ending}`);
    form.set("how", "browser");
    form.set("language", this.place.dataset.language ?? this.place.closest("main").querySelector("select[name=language]")?.value ?? "en-US");
    if (this.trims.begins.value !== "0") form.set("begins", this.at("begins").toFixed(3));
    if (this.trims.ends.value !== "1000") form.set("ends", this.at("ends").toFixed(3));
    for (const [name, value] of Object.entries(JSON.parse(this.place.dataset.with ?? "{}"))) form.set(name, value);
    this.show();
    this.tell("It is being sent …");
    const answer = await post(this.place.dataset.recorder, form).catch(() => null);
    const found = await answer?.json().catch(() => null);
    if (!answer?.ok) {
      this.tell(found?.wrong ?? "It could not be sent. It is kept here: try again.", true);
      this.show("keep", "listen", "again");
      return;
    }
    this.tell("It is kept.");
    this.place.dispatchEvent(new CustomEvent("recorded", { bubbles: true, detail: found }));
    if (!this.place.dataset.with) follow();
    this.show("record");
  }
}

function points(samples, columns = 240) {
  const each = Math.max(1, Math.floor(samples.length / columns));
  return Array.from({ length: columns }, (_, at) => {
    let top = 0;
    for (let one = at * each; one < (at + 1) * each; one += 1) top = Math.max(top, Math.abs(samples[one] ?? 0));
    return Math.round(top * 100);
  });
}

function time(seconds) { return `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, "0")}`; }

function begin() {
  for (const place of document.querySelectorAll("[data-recorder]:not([data-ready])")) {
    place.dataset.ready = "yes";
    new Recorder(place);
  }
}
document.addEventListener("htmx:afterSwap", begin);
begin();
