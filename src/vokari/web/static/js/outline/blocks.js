// A line and what hangs below it: moved, copied, cut, doubled and pasted as one.
import { EditorView } from "/static/vendor/codemirror/codemirror.js";

const depthOf = (text) => (text.trim() ? /^ */.exec(text)[0].length : Infinity);

// The lines of the block that a line begins: itself and all deeper ones behind it, by number.
function blockAt(doc, number) {
  const depth = depthOf(doc.line(number).text);
  let last = number;
  while (last < doc.lines && depthOf(doc.line(last + 1).text) > depth) last++;
  while (last > number && !doc.line(last).text.trim()) last--;
  return [number, last];
}
function here(view) { return view.state.doc.lineAt(view.state.selection.main.head).number; }
function textOf(doc, [first, last]) { return doc.sliceString(doc.line(first).from, doc.line(last).to); }

function swap(view, upper, lower, moved) {
  const { doc } = view.state;
  const from = doc.line(upper[0]).from, to = doc.line(lower[1]).to;
  const cursor = view.state.selection.main.head;
  const insert = `${textOf(doc, lower)}\n${textOf(doc, upper)}`;
  const at = moved === lower ? cursor - doc.line(lower[0]).from + from : cursor + textOf(doc, lower).length + 1;
  view.dispatch({ changes: { from, to, insert }, selection: { anchor: at }, scrollIntoView: true, userEvent: "move.line" });
  return true;
}

function move(up) {
  return (view) => {
    const { doc } = view.state, block = blockAt(doc, here(view)), depth = depthOf(doc.line(block[0]).text);
    if (!up) {
      if (block[1] >= doc.lines || depthOf(doc.line(block[1] + 1).text) !== depth) return true;
      return swap(view, block, blockAt(doc, block[1] + 1), block);
    }
    let before = block[0] - 1;
    while (before > 1 && depthOf(doc.line(before).text) > depth) before--;
    if (before < 1 || depthOf(doc.line(before).text) !== depth) return true;
    return swap(view, [before, block[0] - 1], block, block);
  };
}

function double(view) {
  const { doc } = view.state, block = blockAt(doc, here(view)), to = doc.line(block[1]).to;
  const insert = `\n${textOf(doc, block)}`;
  view.dispatch({ changes: { from: to, insert }, selection: { anchor: view.state.selection.main.head + insert.length }, scrollIntoView: true });
  return true;
}

function outdented(text) {
  const lines = text.split("\n");
  const least = Math.min(...lines.map(depthOf));
  return lines.map((line) => line.slice(Math.min(least, line.length))).join("\n");
}

// With nothing selected, a line is copied or cut with what hangs below it, without its own indent.
function take(event, view, cut) {
  if (!view.state.selection.main.empty || !event.clipboardData) return false;
  const { doc } = view.state, block = blockAt(doc, here(view));
  event.clipboardData.setData("text/plain", `${outdented(textOf(doc, block))}\n`);
  event.preventDefault();
  if (cut) {
    const to = Math.min(doc.line(block[1]).to + 1, doc.length);
    view.dispatch({ changes: { from: doc.line(block[0]).from, to }, userEvent: "delete.cut" });
  }
  return true;
}

// Several lines are pasted at the depth of the line they come to: into an empty line, else behind it and what hangs below it.
function paste(event, view) {
  const text = (event.clipboardData?.getData("text/plain") ?? "").replace(/\r\n?/g, "\n").replace(/\n+$/, "").replace(/\t/g, "    ");
  if (!text.includes("\n") && !(event.clipboardData?.getData("text/plain") ?? "").endsWith("\n")) return false;
  const { doc } = view.state, number = here(view), line = doc.line(number);
  const depth = " ".repeat(/^ */.exec(line.text)[0].length);
  const lines = outdented(text).split("\n").map((one) => (one.trim() ? depth + one : "")).join("\n");
  const empty = !line.text.trim(), to = empty ? line.to : doc.line(blockAt(doc, number)[1]).to;
  const from = empty ? line.from : to, insert = empty ? lines : `\n${lines}`;
  view.dispatch({ changes: { from, to, insert }, selection: { anchor: from + insert.length }, scrollIntoView: true, userEvent: "input.paste" });
  event.preventDefault();
  return true;
}

export const blocks = EditorView.domEventHandlers({
  copy: (event, view) => take(event, view, false),
  cut: (event, view) => !view.state.readOnly && take(event, view, true),
  paste: (event, view) => !view.state.readOnly && paste(event, view),
});
export const blockKeys = [
  { key: "Alt-ArrowUp", run: move(true) }, { key: "Alt-ArrowDown", run: move(false) }, { key: "Shift-Alt-ArrowDown", run: double },
];
