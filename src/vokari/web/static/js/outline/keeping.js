// Keeps what is typed: after a pause it goes to the server, whose reader alone decides; an answer that is overtaken marks no lines.
const PAUSE = 350, AGAIN = 3000;

export class Keeper {
  constructor(page, view, shown) {
    Object.assign(this, { view, shown, url: `${page.base}/text/lines`, revision: page.revision, was: page.text });
    this.version = 0;
    this.kept = 0;
    this.pasted = false;
    this.line = -1;
    this.timer = null;
    this.asking = null;
    // What was sent and not answered yet.
    this.flown = null;
    this.state = document.getElementById("keeping");
    this.token = JSON.parse(document.body.getAttribute("hx-headers"))["X-Form-Token"];
    document.addEventListener("flow-changed", (event) => { if (event.detail.flow === page.flow && event.detail.revision > this.revision) this.soon(0); });
    document.addEventListener("visibilitychange", () => { if (document.hidden) this.flush(true); });
    window.addEventListener("pagehide", () => { if (this.dirty) this.ask(false, true); });
    // Whoever goes on from here takes along what was typed.
    document.addEventListener("click", (event) => {
      const link = event.target.closest("a[href]");
      const plain = link && !link.target && link.href.startsWith(location.origin) && !event.ctrlKey && !event.metaKey && !event.shiftKey;
      if (plain && this.dirty && !event.defaultPrevented) this.first(event, () => location.assign(link.href));
    });
    document.addEventListener("submit", (event) => { if (this.dirty) this.first(event, () => event.target.requestSubmit(event.submitter)); });
  }

  get dirty() { return this.version > this.kept; }

  // What was pasted is finished, what is typed may not be.
  changed(pasted) {
    this.pasted = pasted;
    this.version += 1;
    this.say("typing");
    this.soon(PAUSE);
  }

  // A line that was left is finished: what it names is made.
  moved(line) {
    if (line !== this.line && this.dirty && this.line >= 0) this.soon(PAUSE);
    this.line = line;
  }

  first(event, then) {
    event.preventDefault();
    this.flush(true).then(() => { if (!this.dirty) then(); });
  }

  soon(pause) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.flush(false), pause);
  }

  // Sends the text once nothing else is on its way; `done` says that nobody types at a line any more.
  async flush(done) {
    clearTimeout(this.timer);
    if (done && !this.dirty) return;
    while (this.asking) await this.asking;
    this.asking = this.ask(!done, false).finally(() => { this.asking = null; });
    await this.asking;
  }

  async ask(typing, last) {
    const version = this.version, text = this.view.state.doc.toString();
    const body = new URLSearchParams({ text, base: this.revision, was: this.was });
    if (this.flown !== null) body.set("flown", this.flown);
    if (typing && !this.pasted && this.view.hasFocus && this.dirty) body.set("typing", this.line);
    this.flown = text;
    try {
      const answer = await fetch(this.url, { method: "POST", body, headers: { "X-Form-Token": this.token }, keepalive: last });
      if (answer.redirected) return location.assign(answer.url);
      const said = answer.headers.get("Content-Type")?.includes("json") ? await answer.json() : { error: "This was not kept: the page must be loaded again." };
      if (said.error) return this.say("wrong", said.error);
      this.took(said, version);
    } catch {
      this.say("wrong", "Not kept: the server does not answer. Trying again.");
      this.soon(AGAIN);
    }
  }

  took(said, version) {
    this.flown = null;
    const current = version === this.version;
    // Typed since theirs came: laid over each other once more, from where both began.
    if (said.kept && (current || !said.theirs)) {
      this.kept = version;
      this.revision = said.revision;
      this.was = said.text;
      if (said.theirs) this.replace(said.text);
    }
    this.shown(said, current);
    this.say(said.kept ? "kept" : "waiting", said.kept ? (said.made ?? []).join(" ") : "");
    if (said.theirs && !current) this.soon(0);
  }

  // Their lines come into the text, the cursor stays in its line.
  replace(text) {
    const { state } = this.view, now = state.doc.toString();
    let start = 0, end = 0;
    while (start < now.length && start < text.length && now[start] === text[start]) start++;
    while (end < now.length - start && end < text.length - start && now[now.length - 1 - end] === text[text.length - 1 - end]) end++;
    if (now !== text) this.view.dispatch({ changes: { from: start, to: now.length - end, insert: text.slice(start, text.length - end) } });
    clearTimeout(this.timer);
    this.kept = this.version;
  }

  say(how, words = "") {
    const usual = { typing: "typing", kept: "kept as you type", waiting: "kept once this line is finished", wrong: "" };
    this.state.textContent = words && how !== "wrong" ? `${usual[how]}. ${words}` : words || usual[how];
    this.state.classList.toggle("wrong", how === "wrong");
  }
}
