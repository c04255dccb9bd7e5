// Hearing words before they are kept, words to begin with, and forms whose fields hang together.
import { play, post } from "./player.js";

document.addEventListener("click", async (event) => {
  const hears = event.target.closest?.("[data-hears]");
  if (hears) {
    const form = hears.form ?? hears.closest("form");
    const fields = new URLSearchParams({ words: form.elements[hears.dataset.words].value, language: language(form, hears) });
    const own = !form.elements.voice_of || form.elements.voice_of.value === "own";
    for (const name of ["voice", "rate", "pause"]) {
      const value = hears.dataset[name] ?? (own ? form.elements[name]?.value : "");
      if (value) fields.set(name, value);
    }
    const answer = await post(hears.dataset.hears, fields);
    const found = await answer.json().catch(() => ({ wrong: "This did not work. Try again in a moment." }));
    tell(hears, found.wrong ?? `“${found.said}”`, !answer.ok);
    if (answer.ok) play(hears, found.sounds);
    return;
  }
  const says = event.target.closest?.("[data-says]");
  if (says) {
    const field = document.getElementById(says.closest("[data-fills]").dataset.fills);
    field.value = says.dataset.says;
    field.dispatchEvent(new Event("input", { bubbles: true }));
    const kind = field.form.elements.kind;
    if (kind && !field.form.elements.fallback) kind.value = says.dataset.kind;
    field.focus();
  }
});

function language(form, hears) { return hears.dataset.language ?? form.elements.language?.value ?? "en-US"; }

function tell(hears, words, wrong) {
  let says = hears.parentElement.querySelector(".hears-says");
  if (!says) {
    says = document.createElement("p");
    says.className = "hears-says hint";
    says.setAttribute("role", "status");
    hears.parentElement.append(says);
  }
  says.classList.toggle("wrong", wrong);
  says.textContent = words;
}

document.addEventListener("change", ({ target }) => {
  if (target.dataset?.setsAction) document.getElementById(target.dataset.setsAction).setAttribute("action", target.value);
  if (target.name === "language") showVoices(target.form);
  if (target.name === "voice" && target.form.elements.voice_of) target.form.elements.voice_of.value = "own";
});

function showVoices(form) {
  const chosen = form?.elements.language?.value;
  if (!chosen || !form.elements.voice) return;
  for (const group of form.elements.voice.querySelectorAll("optgroup")) {
    group.hidden = group.disabled = group.dataset.language !== chosen;
  }
  if (form.elements.voice.selectedOptions[0]?.parentElement.disabled) form.elements.voice.value = "";
}
for (const list of document.querySelectorAll("select[name=voice]")) showVoices(list.form);
