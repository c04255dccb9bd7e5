// Files that are brought, several at once; and takes that the worker is still making.
import { post } from "./player.js";

const AT_ONCE = 2;

// The page shows a take once it is ready: it is loaded again then.
export function follow() { setTimeout(() => location.reload(), 300); }

async function wait(place) {
  for (let pause = 250; ; pause = Math.min(pause * 1.5, 3000)) {
    await new Promise((go) => setTimeout(go, pause));
    const answer = await fetch(place.dataset.waits).catch(() => null);
    if (!answer?.ok) continue;
    const { state } = await answer.json();
    if (state !== "coming") { location.reload(); return; }
  }
}
const waiting = document.querySelector("[data-waits]");
if (waiting) wait(waiting);

// Somebody is rung, or speaks through a link: the page is loaded again once something is new.
const asks = document.querySelector("[data-stands]");
async function look() {
  const stands = async () => (await (await fetch(asks.dataset.stands)).json()).stands;
  const before = await stands().catch(() => null);
  while (before !== null && /ringing|speaking|waiting|coming/.test(before)) {
    await new Promise((go) => setTimeout(go, 2000));
    if (document.hidden) continue;
    const now = await stands().catch(() => before);
    if (now !== before && !document.querySelector(".recorder [data-do=keep]:not([hidden]), .recorder [data-do=stop]:not([hidden])")) {
      location.reload();
      return;
    }
  }
}
if (asks) look();

const place = document.querySelector("[data-brings]");

async function bring(files) {
  const list = place.querySelector(".brought");
  const queue = [...files].map((file) => {
    const line = document.createElement("li");
    line.textContent = `${file.name}: waits`;
    list.append(line);
    return { file, line };
  });
  const one = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) await send(next);
  };
  await Promise.all(Array.from({ length: AT_ONCE }, one));
}

async function send({ file, line }) {
  line.textContent = `${file.name}: is being sent …`;
  const form = new FormData();
  form.set("file", file, file.name);
  const answer = await post(`${place.dataset.brings}/takes`, form).catch(() => null);
  const found = await answer?.json().catch(() => null);
  line.classList.toggle("wrong", !answer?.ok);
  if (!answer?.ok) {
    line.textContent = `${file.name}: ${found?.wrong ?? (answer?.status === 413 ? "The file is larger than 20 MB." : "It could not be sent. Try again.")}`;
    return;
  }
  line.textContent = `${file.name}: ${found.made ? "made the prompt" : "a new take of"} `;
  const link = document.createElement("a");
  link.href = found.at;
  link.textContent = found.name;
  line.append(link);
}

if (place) {
  const field = place.querySelector("input[type=file]");
  field.addEventListener("change", () => { bring(field.files); field.value = ""; });
  const drop = place.querySelector(".drop");
  for (const kind of ["dragover", "dragleave", "drop"]) {
    drop.addEventListener(kind, (event) => {
      event.preventDefault();
      drop.classList.toggle("drop-here", kind === "dragover");
      if (kind === "drop") bring(event.dataTransfer.files);
    });
  }
}
