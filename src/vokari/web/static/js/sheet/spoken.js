// The spoken fields of a row: heard, chosen, recorded or uploaded there.
import "../prompts/player.js";
import "../prompts/hearing.js";
import "../prompts/recorder.js";
import { post } from "../prompts/player.js";

// What was recorded becomes a prompt, and the row plays it.
document.addEventListener("recorded", (event) => choose(event.target, event.detail));

document.addEventListener("change", async ({ target }) => {
  if (target.matches?.("[data-chooses-prompt]")) {
    const words = target.form.elements[target.name.replace(/-prompt$/, "")];
    if (!target.value) { words.readOnly = false; words.focus(); }
    return;
  }
  if (!target.matches?.("[data-brings-file]") || !target.files[0]) return;
  const place = target.closest("[data-recorder]");
  const says = place.querySelector(".recorder-says");
  const form = new FormData();
  form.set("file", target.files[0], target.files[0].name);
  for (const [name, value] of Object.entries(JSON.parse(place.dataset.with))) form.set(name, value);
  says.classList.remove("wrong");
  says.textContent = "It is being sent …";
  const answer = await post(place.dataset.recorder, form).catch(() => null);
  const found = await answer?.json().catch(() => null);
  says.classList.toggle("wrong", !answer?.ok);
  says.textContent = answer?.ok ? "It is kept." : found?.wrong ?? "It could not be sent. Try again.";
  if (answer?.ok) choose(place, found);
});

function choose(place, found) {
  const records = place.closest("[data-records-for]");
  if (!records || !found?.key) return;
  const form = records.closest("form");
  const list = form.elements[records.dataset.recordsFor];
  if (![...list.options].some((one) => one.value === found.key)) list.add(new Option(found.name, found.key));
  list.value = found.key;
  form.requestSubmit();
}
