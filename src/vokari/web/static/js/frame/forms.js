// What forms cannot do alone: dialogs, a box that ticks others, fields that matter only for one choice of a list.
document.addEventListener("click", (event) => {
  const shows = event.target.closest?.("[data-shows]");
  if (shows) document.getElementById(shows.dataset.shows).showModal();
});

function tick(within, boxes, checked) {
  for (const box of within.querySelectorAll(`input[type=checkbox]${boxes}`)) box.checked = checked;
}
document.addEventListener("change", ({ target }) => {
  const { all, allLike } = target.dataset ?? {};
  if (allLike) tick(target.closest("table"), `[name^="${allLike}"]`, target.checked);
  if (all) tick(target.form, `[name="${all}"]`, target.checked);
});

function openChoices() {
  for (const list of document.querySelectorAll("[data-opens]")) {
    const at = list.dataset.opensAt.split("|");
    list.dataset.opens.split(" ").forEach((id, which) => {
      document.getElementById(id).hidden = !(at[which] ?? at[0]).split(" ").includes(list.value);
    });
  }
}
document.addEventListener("change", openChoices);
document.addEventListener("htmx:afterSwap", openChoices);
openChoices();

// A search that asks while one types asks again when the field is left; where nothing changed since, what was found stays as it is.
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.target.closest?.(".find-filters");
  if (!form) return;
  const asked = new URLSearchParams(new FormData(form)).toString();
  if (asked === form.dataset.asked && event.detail.requestConfig.triggeringEvent?.type === "change") event.preventDefault();
  form.dataset.asked = asked;
});
