// The text of a flow: an editor in place of the plain field, which stays what is sent where scripts do not run.
import { EditorState, EditorView, defaultKeymap, drawSelection, highlightActiveLine, highlightActiveLineGutter, history, historyKeymap,
  indentLess, indentMore, indentUnit, insertNewlineKeepIndent, keymap, lineNumbers, placeholder } from "/static/vendor/codemirror/codemirror.js";
import { blockKeys, blocks } from "./outline/blocks.js";
import { completing, completionKeys, entersLines, names } from "./outline/completing.js";
import { drawn, marked, setMarks } from "./outline/drawn.js";
import { Keeper } from "./outline/keeping.js";
import "./sheet/proof.js";

const field = document.getElementById("outline");
const page = JSON.parse(document.getElementById("outline-page").textContent);
const side = document.getElementById("side");
const INDENT = "    ";
// Milliseconds without typing after which the proof of what stands is asked for.
const PROVEN_AFTER = 1200;
// After Escape, Tab belongs to the page until something else is typed.
let gives = false;

function tab(shift) {
  return (view) => {
    if (gives) return false;
    return (shift ? indentLess : indentMore)(view);
  };
}

function openRow(view) {
  const step = marked(view.state, view.state.doc.lineAt(view.state.selection.main.head).from);
  keeper.flush(true).then(() => { if (step) location.assign(`${page.base}?row=${step}`); });
  return true;
}

const keys = [
  ...completionKeys,
  { key: "Enter", run: insertNewlineKeepIndent },
  { key: "Tab", run: tab(false), shift: tab(true) },
  { key: "Escape", run: () => { gives = true; return false; } },
  { key: "Mod-Enter", run: openRow },
  { key: "Mod-s", run: () => { keeper.flush(true); return true; }, preventDefault: true },
  ...blockKeys,
];

const view = new EditorView({
  state: EditorState.create({
    doc: field.value,
    extensions: [
      EditorView.cspNonce.of(page.nonce),
      entersLines, keymap.of(keys), history(), keymap.of([...historyKeymap, ...defaultKeymap]),
      lineNumbers(), drawSelection(), highlightActiveLine(), highlightActiveLineGutter(), indentUnit.of(INDENT), EditorState.tabSize.of(4),
      EditorView.lineWrapping, placeholder(field.placeholder), completing, drawn, blocks,
      EditorState.readOnly.of(field.readOnly),
      EditorView.contentAttributes.of({ "aria-label": field.labels[0].textContent, spellcheck: "false" }),
      EditorView.domEventHandlers({
        keydown: (event) => { if (!["Escape", "Tab", "Shift"].includes(event.key)) gives = false; return false; },
        focus: () => { gives = false; },
        blur: () => { keeper.flush(true); },
      }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) keeper.changed(update.transactions.some((one) => one.isUserEvent("input.paste")));
        if (update.docChanged || update.selectionSet) { light(); keeper.moved(lineAt(update.state)); }
      }),
    ],
  }),
});
const keeper = new Keeper(page, view, shown);

function lineAt(state) { return state.doc.lineAt(state.selection.main.head).number - 1; }

// The step of the line at the cursor is lit in the map and in the findings.
function light() {
  const step = marked(view.state, view.state.doc.lineAt(view.state.selection.main.head).from);
  for (const one of side.querySelectorAll("[data-step]")) one.classList.toggle("is-near", Boolean(step) && one.dataset.step === step);
}

let proves = null;
function prove() {
  clearTimeout(proves);
  proves = setTimeout(() => window.htmx?.trigger("#proof", "proven"), PROVEN_AFTER);
}

// What the server says of the text: marks beside the lines, and the map and the findings anew.
function shown(answer, current) {
  if (answer.names) names.replace(answer.names);
  if (current) view.dispatch({ effects: setMarks.of(answer) });
  if (answer.side) {
    side.innerHTML = answer.side;
    window.htmx?.process(side);
    light();
    prove();
  }
}

function goTo(step) {
  for (let n = 1; n <= view.state.doc.lines; n++) {
    const line = view.state.doc.line(n);
    if (marked(view.state, line.from) === step) {
      view.dispatch({ selection: { anchor: line.to }, effects: EditorView.scrollIntoView(line.from, { y: "center" }) });
      view.focus();
      return true;
    }
  }
  return false;
}
side.parentElement.addEventListener("click", (event) => {
  const link = event.target.closest("[data-step], [data-line]");
  if (!link || event.target.closest("form")) return;
  if (link.dataset.line) {
    const line = view.state.doc.line(Math.min(Number(link.dataset.line) + 1, view.state.doc.lines));
    view.dispatch({ selection: { anchor: line.to }, scrollIntoView: true });
    view.focus();
    event.preventDefault();
  } else if (goTo(link.dataset.step)) event.preventDefault();
});

field.hidden = true;
field.after(view.dom);
document.body.classList.add("has-editor");
names.replace(page.names);
view.dispatch({ effects: setMarks.of(page) });
if (!page.row || !goTo(page.row)) {
  view.dispatch({ selection: { anchor: view.state.doc.length } });
  if (!field.readOnly) view.focus();
}
