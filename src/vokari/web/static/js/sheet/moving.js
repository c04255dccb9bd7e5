// Rows with what hangs below them: moved, copied, cut, pasted, doubled and removed, by keys at a row and by the buttons of an opened one.
import { desk, post, show } from "./desk.js";

const KEYS = {
  "Alt+ArrowUp": "up", "Alt+ArrowDown": "down", "Control+Shift+ArrowRight": "deeper", "Control+Shift+ArrowLeft": "less_deep",
  "Alt+Shift+ArrowDown": "double",
};

const base = () => desk().dataset.base;
export const rowOf = (element) => element?.closest("li.row[data-row]");
export const row = (li) => ({ row: li.dataset.row, exit: li.dataset.exit ?? "" });

// The lines of the flow, asked for when a row gets the focus, so that they are there when it is copied.
let known = { revision: "", lines: [] };
async function learn() {
  if (known.revision === desk()?.dataset.revision) return;
  const answer = await fetch(`${base()}/lines`);
  const said = await answer.json();
  known = { revision: String(said.revision), lines: said.lines };
}
document.addEventListener("focusin", ({ target }) => { if (target.matches("a.row-words")) learn().catch(() => {}); });

// The lines of a row, without the indent of the first, as they are pasted anywhere; with those at its depth that go on from it.
function block({ row: step, exit }) {
  const { lines } = known;
  const at = lines.findIndex(([, id, parent, way]) => (exit ? parent === step && way === exit : id === step));
  if (at < 0) return "";
  const depth = (n) => /^ */.exec(lines[n][0])[0].length, goesOn = (n) => lines[n][4];
  let end = at + 1;
  while (end < lines.length && (depth(end) > depth(at) || (!goesOn(at) && goesOn(end) && depth(end) === depth(at)))) end++;
  return `${lines.slice(at, end).map(([text]) => text.slice(depth(at))).join("\n")}\n`;
}

async function send(path, fields) {
  const at = document.activeElement?.getAttribute("href");
  try {
    show(await post(`${base()}/${path}`, new URLSearchParams(fields)));
    // Whoever has gone on to another row meanwhile stays there.
    const now = document.activeElement;
    if (now === document.body || now.getAttribute("href") === at) desk().querySelector("[autofocus]")?.focus();
  } catch {
    desk().querySelector(".said").innerHTML = "<p class='notice wrong'>Nothing was changed: the server does not answer.</p>";
  }
}
export const move = (li, how) => send("move", { ...row(li), how });
export const paste = (li, text) => send("paste", { ...(li ? row(li) : {}), text });

// Removes a row; the focus goes to the one that comes in its place.
async function remove(li, along) {
  const rows = () => [...desk().querySelectorAll("li.row[data-row] a.row-words")];
  const at = rows().findIndex((one) => li.contains(one));
  await (li.dataset.exit ? send("take-out", row(li)) : send("remove", { ...row(li), ...(along ? { along: 1 } : {}) }));
  (rows()[at] ?? rows().at(-1))?.focus();
}

// A row of the sheet has the focus and nothing is selected.
function here(event) {
  const link = event.target.closest?.("a.row-words");
  return link && document.getSelection().isCollapsed ? rowOf(link) : null;
}

document.addEventListener("keydown", (event) => {
  const li = here(event);
  if (!li) return;
  const name = [event.ctrlKey || event.metaKey ? "Control" : "", event.altKey ? "Alt" : "", event.shiftKey ? "Shift" : "", event.key];
  const pressed = name.filter(Boolean).join("+");
  const how = KEYS[pressed];
  if (how) move(li, how);
  else if (pressed === "Delete" || pressed === "Control+Delete") remove(li, pressed !== "Delete");
  else return;
  event.preventDefault();
  event.stopPropagation();
}, true);

for (const name of ["copy", "cut"]) {
  document.addEventListener(name, (event) => {
    const li = here(event), text = li ? block(row(li)) : "";
    if (!text) return;
    event.clipboardData.setData("text/plain", text);
    event.preventDefault();
    if (name === "cut") remove(li, true);
  });
}
document.addEventListener("paste", (event) => {
  const at = event.target.closest?.("input, textarea, select") ? null : event.target;
  if (!at || !desk()) return;
  const li = here(event), text = event.clipboardData.getData("text/plain");
  if (!li && desk().querySelector("li.row[data-row]")) return;
  event.preventDefault();
  paste(li, text);
});

document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-block]");
  if (!button) return;
  const li = rowOf(button), how = button.dataset.block;
  try {
    if (how === "paste") return await paste(li, await navigator.clipboard.readText());
    await learn();
    await navigator.clipboard.writeText(block(row(li)));
  } catch {
    desk().querySelector(".said").innerHTML = "<p class='notice wrong'>This browser keeps its clipboard to itself: press Ctrl C, X or V at the row.</p>";
    return undefined;
  }
  return how === "cut" ? remove(li, true) : undefined;
});
